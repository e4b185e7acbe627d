import { shortenMiddle } from '#core/text';

/** Every code a failure can carry. They are stable: stored jobs and wire messages speak of them. */
export const FAILURE_CODES = [
  'path/empty',
  'path/absolute',
  'path/climbs',
  'path/forbidden-character',
  'path/reserved-name',
  'path/trailing-dot-or-space',
  'path/too-long',
  'path/collides',
  'path/too-many-folders',
  'digest/malformed',
  'metalink/malformed',
  'metalink/unsupported',
  'metalink/pieces',
  'list/no-entry',
  'list/mixed-kinds',
  'list/empty',
  'list/too-long',
  'list/encoding',
  'list/kind-not-known',
  'table/malformed',
  'table/empty',
  'table/too-large',
  'json/malformed',
  'json/does-not-fit',
  'merge/encoding',
  'merge/open',
  'hold-sheet/unknown-version',
  'hold-sheet/not-as-claimed',
  'target/unknown-release',
  'demo/bad-seed',
  'demo/bad-range',
  'demo/unknown-file',
  'service/unreachable',
  'service/refused',
  'service/too-many-tries',
  'service/sign-in-needed',
  'service/not-owned',
  'service/failed',
  'service/corrupt-piece',
  'service/no-ranges',
  'fetch/incomplete',
  'record/not-as-ruled',
  'record/held',
  'log/says-neither',
  'log/too-old',
  'folder/not-found',
  'folder/read-only',
  'folder/full',
  'folder/changed-meanwhile',
  'folder/no-permission',
  'folder/gone',
  'folder/not-a-file',
  'folder/too-deep',
  'folder/has-store',
  'folder/nested',
  'folder/not-empty',
  'folder/held',
  'folder/store-there',
  'folder/in-use',
  'folder/failed',
  'request/malformed',
  'request/method',
  'request/too-long',
  'request/foreign',
  'served/off',
  'served/refused',
  'served/outside',
  'served/root-replaced',
  'changes/not-allowed',
  'changes/not-named',
  'changes/newer',
  'changes/damaged',
  'changes/unknown',
  'changes/let-go',
  'changes/superseded',
  'changes/unfinished',
  'changes/locked',
  'served/no-write',
  'store/failed',
  'store/damaged',
  'store/newer',
  'job/cancelled',
  'job/worker-died',
  'source/not-an-address',
  'source/private',
  'source/redirected',
  'source/not-as-expected',
  'source/exists',
  'bundle/does-not-fit',
  'keepsake/gone',
  'keepsake/partial',
  'profile/unknown-version',
  'profile/held',
  'profile/no-target',
  'bag/malformed',
  'shelf/release-there',
  'archive/unknown-kind',
  'archive/in-parts',
  'archive/encrypted',
  'archive/not-a-file',
  'archive/damaged',
  'archive/too-many',
  'archive/too-large',
  'archive/too-large-to-read',
  'backup/malformed',
  'backup/newer',
  'job/busy',
  'job/not-checked-out',
  'unexpected',
] as const;

export type FailureCode = (typeof FAILURE_CODES)[number];
export type Facts = Readonly<Record<string, string | number | boolean | undefined>>;

/** Where in a text. */
type InText = { readonly file?: string | undefined; readonly line?: number | undefined };
type OfPath = { readonly path: string } & InText;
/** A place in the folder that it is about, where it is about one. */
type MaybeOfPath = { readonly path?: string | undefined };
/** What was found in a text, and what belongs there. */
type Found = { readonly found: string | number } & InText;
type Expected = Found & { readonly expected: string | number };
type Nothing = Readonly<Record<never, never>>;

/** What a failure tells besides its code; the words for people are made of these. Numbers are counts unless said otherwise. */
export interface FailureFacts {
  'path/empty': OfPath;
  'path/absolute': OfPath;
  'path/climbs': OfPath;
  'path/forbidden-character': OfPath;
  'path/reserved-name': OfPath & { readonly name: string };
  'path/trailing-dot-or-space': OfPath;
  /** Characters. */
  'path/too-long': OfPath & { readonly limit: number };
  'path/collides': OfPath & { readonly other: string };
  'path/too-many-folders': OfPath & { readonly limit: number };
  'digest/malformed': Found & MaybeOfPath & { readonly length?: number };
  'metalink/malformed': InText &
    MaybeOfPath & { readonly what: string; readonly expected?: string; readonly found?: string };
  'metalink/unsupported': Expected & MaybeOfPath;
  'metalink/pieces': Expected & MaybeOfPath;
  'list/no-entry': Found;
  'list/mixed-kinds': Expected;
  'list/empty': InText;
  'list/too-long': InText & { readonly limit: number | string };
  'list/encoding': InText;
  'list/kind-not-known': Found;
  'table/malformed': InText;
  'table/empty': InText;
  'table/too-large': InText & { readonly what: 'rows' | 'columns'; readonly limit: number };
  'json/malformed': InText & { readonly what: string };
  'json/does-not-fit': InText & { readonly field: string; readonly problem: string };
  /** The encoding of a text that a merge would put signs into that it does not have. */
  'merge/encoding': OfPath & { readonly encoding: string };
  /** Conflicts that are not decided yet. */
  'merge/open': OfPath & { readonly count: number };
  'hold-sheet/unknown-version': Expected;
  'hold-sheet/not-as-claimed': Found & { readonly claim: string };
  'target/unknown-release': { readonly mod: string; readonly release: string };
  'demo/bad-seed': Expected;
  'demo/bad-range': OfPath & Expected;
  'demo/unknown-file': OfPath & Readonly<Partial<Record<'mod' | 'release' | 'build' | 'depot', string>>>;
  'service/unreachable': { readonly url: string };
  'service/refused': { readonly what?: string };
  'service/too-many-tries': Nothing;
  'service/sign-in-needed': { readonly depot?: string };
  'service/not-owned': { readonly depot?: string };
  'service/failed': MaybeOfPath & {
    readonly url?: string;
    readonly what?: string;
    readonly status?: number;
    readonly expected?: number;
    readonly found?: number;
  };
  /** The piece counts from 0. */
  'service/corrupt-piece': MaybeOfPath & { readonly url?: string; readonly piece?: number };
  'service/no-ranges': { readonly url: string };
  /** Files that could not be had, the path of one of them, and the code of its failure. */
  'fetch/incomplete': OfPath & { readonly files: number; readonly why: string };
  'log/says-neither': { readonly file: string };
  'log/too-old': { readonly file: string };
  /** `what`: the branch that was to be switched to. */
  'record/held': { readonly what: string };
  'record/not-as-ruled': { readonly file: string; readonly what: string; readonly line?: number };
  'folder/not-found': OfPath & { readonly missing?: number };
  'folder/read-only': OfPath;
  /** Bytes that it takes and that are free, where both are known before anything is written. */
  'folder/full': OfPath & { readonly needs?: number; readonly free?: number };
  'folder/changed-meanwhile': OfPath;
  'folder/no-permission': MaybeOfPath;
  'folder/gone': MaybeOfPath;
  'folder/not-a-file': OfPath;
  'folder/too-deep': OfPath & { readonly limit: number };
  'folder/has-store': OfPath;
  'source/not-an-address': Found;
  'source/private': { readonly url: string };
  'source/redirected': Found & { readonly url: string };
  /** `what` it should have been, `found` what came instead. */
  'source/not-as-expected': Found & { readonly url: string; readonly what: string };
  'source/exists': Found;
  'bundle/does-not-fit': {
    readonly build: string;
    readonly depot: string;
    /** Undefined where it is the whole of it. */
    readonly frame?: number;
    readonly problem: string;
  };
  'profile/unknown-version': Expected;
  /** Titles of profiles. */
  'profile/held': { readonly profile: string };
  'profile/no-target': { readonly profile: string };
  'keepsake/gone': { readonly keepsake: string };
  'keepsake/partial': { readonly path: string; readonly files: number };
  'bag/malformed': InText & { readonly what: string };
  /** The mod's name. */
  'shelf/release-there': { readonly mod: string; readonly release: string };
  'archive/unknown-kind': InText;
  'archive/in-parts': InText;
  'archive/encrypted': MaybeOfPath & InText;
  'archive/not-a-file': OfPath & InText;
  'archive/damaged': MaybeOfPath & InText;
  /** Entries. */
  'archive/too-many': InText & { readonly limit: number };
  /** Bytes that it may come to, unpacked. */
  'archive/too-large': InText & { readonly limit: number };
  /** Bytes of the archive itself. */
  'archive/too-large-to-read': InText & { readonly limit: number };
  'backup/malformed': InText & { readonly what: string };
  'backup/newer': Expected;
  'folder/nested': OfPath;
  'folder/not-empty': OfPath;
  'folder/held': { readonly what: string };
  'folder/store-there': OfPath;
  /** The name of the program, where the system tells. */
  'folder/in-use': OfPath & { readonly program?: string };
  'folder/failed': MaybeOfPath & { readonly message?: string | undefined };
  'request/malformed': { readonly what: string; readonly found?: string | undefined };
  'request/method': Expected;
  /** Bytes. */
  'request/too-long': { readonly limit: number };
  'request/foreign': { readonly what: string };
  'served/off': Nothing;
  'served/refused': { readonly what: string };
  'served/outside': OfPath;
  'served/root-replaced': OfPath;
  'changes/not-allowed': MaybeOfPath & { readonly set: string; readonly step: number; readonly what: string };
  'changes/newer': Expected;
  'changes/damaged': OfPath;
  'changes/unknown': { readonly set: string };
  'changes/let-go': { readonly set: string };
  'changes/not-named': { readonly path: string; readonly files: number };
  'changes/superseded': Expected;
  'changes/unfinished': { readonly set: string };
  /** The process that has the lock, where it is known. */
  'changes/locked': { readonly found?: number };
  'served/no-write': Nothing;
  'store/failed': { readonly what: string; readonly id?: string; readonly build?: string };
  /** The kind of record, and what of it is not as it should be. */
  'store/damaged': { readonly what: string; readonly id?: string; readonly field: string; readonly problem: string };
  'store/newer': { readonly expected: number };
  'job/cancelled': Nothing;
  'job/worker-died': { readonly message?: string };
  'job/busy': Nothing;
  'job/not-checked-out': { readonly what: string };
  unexpected: { readonly message: string };
}

/** The longest path that anything here accepts is shorter. */
const LONGEST_FACT = 1200;

/** Facts may hold what somebody else wrote, of any length: it is told by its ends. */
const bounded = (facts: Facts): Facts =>
  Object.fromEntries(
    Object.entries(facts).map(([name, fact]) => [
      name,
      typeof fact === 'string' ? shortenMiddle(fact, LONGEST_FACT) : fact,
    ]),
  );

interface Because {
  readonly cause?: unknown;
}

/**
 * What went wrong, as a value: a stable code, the facts (path, line, expected, found) and the cause.
 * It carries no wording for people; the interface finds the words by the code.
 */
export class Failure<Code extends FailureCode = FailureCode> extends Error {
  readonly facts: FailureFacts[Code];

  constructor(
    readonly code: Code,
    ...[facts, options]: Nothing extends FailureFacts[Code]
      ? [facts?: FailureFacts[Code], options?: Because]
      : [facts: FailureFacts[Code], options?: Because]
  ) {
    const short = bounded((facts ?? {}) as Facts);
    super(`${code} ${JSON.stringify(short)}`, options);
    this.name = 'Failure';
    this.facts = short as FailureFacts[Code];
  }
}

/** A failure as it crosses a thread, the wire or the store. */
export interface WireFailure {
  code: FailureCode;
  facts: Facts;
  cause?: WireFailure;
}

/** @param code when given, asks for that one code. */
export function isFailure<Code extends FailureCode>(error: unknown, code?: Code): error is Failure<Code> {
  return error instanceof Failure && (code === undefined || error.code === code);
}

/** Keeps code, facts and the chain of causes. Anything that is no failure becomes `unexpected` with its message. */
export function failureToWire(error: unknown): WireFailure {
  if (!(error instanceof Failure)) {
    return {
      code: 'unexpected',
      facts: { message: shortenMiddle(error instanceof Error ? error.message : String(error), LONGEST_FACT) },
    };
  }
  return {
    code: error.code,
    facts: error.facts as Facts,
    ...(error.cause === undefined ? {} : { cause: failureToWire(error.cause) }),
  };
}

/** Inverse of {@link failureToWire}: code, facts and causes are the same afterwards. */
export function failureFromWire(wire: WireFailure): Failure {
  // What another side has sent is taken at its word: its words say so where a fact is missing.
  const facts = wire.facts as FailureFacts[FailureCode];
  return new Failure(wire.code, facts, wire.cause ? { cause: failureFromWire(wire.cause) } : undefined);
}
