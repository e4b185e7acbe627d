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
  'folder/not-found',
  'folder/read-only',
  'folder/full',
  'folder/changed-meanwhile',
  'folder/no-permission',
  'folder/gone',
  'folder/not-a-file',
  'folder/too-deep',
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
  'changes/newer',
  'changes/damaged',
  'changes/unknown',
  'changes/let-go',
  'changes/superseded',
  'changes/unfinished',
  'changes/locked',
  'served/no-write',
  'store/failed',
  'job/cancelled',
  'job/worker-died',
  'job/busy',
  'job/not-checked-out',
  'unexpected',
] as const;

export type FailureCode = (typeof FAILURE_CODES)[number];
export type Facts = Readonly<Record<string, string | number | boolean | undefined>>;

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

/**
 * What went wrong, as a value: a stable code, the facts (path, line, expected, found) and the cause.
 * It carries no wording for people; the interface finds the words by the code.
 */
export class Failure extends Error {
  readonly facts: Facts;

  constructor(
    readonly code: FailureCode,
    facts: Facts = {},
    options?: { cause?: unknown },
  ) {
    const short = bounded(facts);
    super(`${code} ${JSON.stringify(short)}`, options);
    this.name = 'Failure';
    this.facts = short;
  }
}

/** A failure as it crosses a thread, the wire or the store. */
export interface WireFailure {
  code: FailureCode;
  facts: Facts;
  cause?: WireFailure;
}

/** @param code when given, asks for that one code. */
export function isFailure(error: unknown, code?: FailureCode): error is Failure {
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
    facts: error.facts,
    ...(error.cause === undefined ? {} : { cause: failureToWire(error.cause) }),
  };
}

/** Inverse of {@link failureToWire}: code, facts and causes are the same afterwards. */
export function failureFromWire(wire: WireFailure): Failure {
  return new Failure(wire.code, wire.facts, wire.cause ? { cause: failureFromWire(wire.cause) } : undefined);
}
