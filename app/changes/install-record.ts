import type { GameRules, RecordRule } from '#core/builds';
import {
  type ChangeSet,
  type Direction,
  type Journalled,
  keptPath,
  PLACES,
  type Settlement,
  type Step,
} from '#core/changes';
import { PIECE_SIZE } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import type { Folder } from '#core/folders';
import { treePath } from '~/folders';
import { canChange } from '~/places';
import { getGame, type HoldCheck, type HoldRecord, type Install } from '~/store';
import { type Changes, changesOf, type Runner } from './changes-of';
import type { FlagReader } from './flags';
import { editSteps, textKey } from './plans';

/** The storefront's record of an install: where it lies on the disk, and how it is read. */
export interface RecordOf {
  readonly path: string;
  readonly rule: RecordRule;
  /** Whether it lies in the game's folder, and not beside it. */
  readonly inGame: boolean;
}

/** What reads and writes records comes along only where there is one: its engines are large. */
const engine = (): Promise<typeof import('#core/record')> => import('#core/record');

/** Undefined where the game's rules know of none. */
export function recordBy({ record: rule }: GameRules, { record, tree }: Install): RecordOf | undefined {
  if (!rule) return undefined;
  if (!record) return { rule, inGame: true, path: treePath(tree, rule.file) };
  const path = record.kind === 'disk' ? record.path : `${PLACES.beside}/record/${record.name}`;
  return { rule, inGame: false, path };
}

/** As {@link recordBy}, by the rules of the install's game. */
export const recordOf = async (install: Install): Promise<RecordOf | undefined> =>
  recordBy((await getGame(install.game)).rules, install);

type RecordDisk = Pick<Folder, 'stat' | 'read'> & FlagReader;

/**
 * The text of a record, with its byte order mark where it has one; undefined where there is none.
 * @throws Failure `record/not-as-ruled` for what could not be written back as it was: no UTF-8, or more than one piece
 */
async function textOf(disk: RecordDisk, { path, rule: { file } }: RecordOf): Promise<string | undefined> {
  const entry = await disk.stat(path);
  if (!entry) return undefined;
  if (entry.size > PIECE_SIZE) throw new Failure('record/not-as-ruled', { file, what: 'is larger than 1 MiB' });
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(await disk.read(path));
  } catch (error) {
    if (isFailure(error)) throw error;
    throw new Failure('record/not-as-ruled', { file, what: 'is no UTF-8 text' }, { cause: error });
  }
}

/**
 * Steps that change the storefront's record. None where there is no record.
 * @param change of its text
 * @param readOnly whether it is to be locked afterwards; as it is, where that is left out
 * @throws Failure `record/not-as-ruled`
 */
export async function recordSteps(
  set: string,
  disk: RecordDisk,
  record: RecordOf | undefined,
  change: (text: string, rule: RecordRule) => Promise<string>,
  readOnly?: boolean,
): Promise<Step[]> {
  const text = record && (await textOf(disk, record));
  if (!record || text === undefined) return [];
  const { path, rule } = record;
  const isReadOnly = (await disk.readOnlyOf([path])).has(path);
  return editSteps(set, { path, text, isReadOnly }, await change(text, rule), readOnly ?? isReadOnly);
}

/** A record that tells of a build, where its rule says where. */
export const withBuild =
  (build: string) =>
  async (text: string, rule: RecordRule): Promise<string> =>
    rule.build === undefined ? text : (await engine()).writeValue(text, { ...rule, at: rule.build }, build);

/** A record that stops updates, or lets them come. */
export const withUpdates =
  (what: 'stops' | 'goes') =>
  async (text: string, rule: RecordRule): Promise<string> =>
    (await engine()).writeValue(text, rule, rule[what]);

/**
 * A record that follows a branch, and lets its updates come: it is by these that the branch's build arrives.
 * @param code opens the branch; left as it is where the record has no place for it, or none is given
 */
export const withBranch =
  (branch: string, code: string | undefined) =>
  async (text: string, rule: RecordRule): Promise<string> => {
    const { writeValue } = await engine();
    const places = [
      [rule.branch, branch],
      [rule.branchCode, code],
    ] as const;
    return places.reduce(
      (now, [at, value]) => (at === undefined || value === undefined ? now : writeValue(now, { ...rule, at }, value)),
      await withUpdates('goes')(text, rule),
    );
  };

/**
 * The branch that a storefront's record follows; undefined where there is none, or it says nothing of branches.
 * @throws Failure `record/not-as-ruled`
 */
export async function recordBranch(disk: RecordDisk, record: RecordOf | undefined): Promise<string | undefined> {
  if (record?.rule.branch === undefined) return undefined;
  const text = await textOf(disk, record);
  return text === undefined ? undefined : (await engine()).readValue(text, { ...record.rule, at: record.rule.branch });
}

/** What a storefront's record says just now; nothing where there is none. @throws Failure `record/not-as-ruled` */
export async function recordValue(
  disk: RecordDisk,
  record: RecordOf | undefined,
): Promise<{ value: string; isReadOnly: boolean } | undefined> {
  const text = record && (await textOf(disk, record));
  if (!record || text === undefined) return undefined;
  const { readValue } = await engine();
  const value = readValue(text, record.rule);
  return { value, isReadOnly: (await disk.readOnlyOf([record.path])).has(record.path) };
}

/**
 * What becomes of the step of a set that has changed the storefront's record, where others have written to that since: the
 * values that the set has changed are set back, or again, in the record as it lies; all else stays as they left it. Undefined
 * where the record is as the set expects it, or can no longer be read by the rules.
 */
export async function recordSettlement(
  runner: Runner,
  changes: Changes,
  install: Install,
  { set }: Journalled,
  way: Direction,
): Promise<Settlement | undefined> {
  const record = await recordOf(install);
  const number = record ? set.steps.findIndex((step) => step.do === 'place' && step.to === record.path) : -1;
  const step = set.steps[number];
  if (!record || step?.do !== 'place' || step.before === null) return undefined;
  const now = await changes.textOf(runner, record.path);
  const expected = way === 'on' ? step.before : step.key;
  if (now === undefined || (await textKey(now)) === expected) return undefined;
  const made = set.steps.find((one) => one.do === 'write' && one.to === step.from);
  const ours = made?.do === 'write' ? made.text : undefined;
  const to = way === 'on' ? ours : await changes.textOf(runner, keptPath(set.id, number));
  if (ours === undefined || to === undefined) return undefined;
  const text = await carriedOver(record.rule, PLACES_OF[set.what] ?? [], { ours, to, now, way });
  if (text === undefined || text === now) return { step: number, as: { do: 'leave', path: record.path } };
  const [key, other] = [await textKey(text), await textKey(now)];
  const as = way === 'on' ? { ...step, key, before: other } : { ...step, key: other, before: key };
  return { step: number, as, text };
}

type RecordPlace = 'at' | 'build' | 'branch' | 'branchCode';

/** Which values of the record each kind of change sets. */
const PLACES_OF: Partial<Record<ChangeSet['what'], readonly RecordPlace[]>> = {
  hold: ['at'],
  release: ['at'],
  'switch-branch': ['at', 'branch', 'branchCode'],
  'lay-down': ['build'],
};

/** A record as it lies, with the values of another one; undefined where one of them is not as ruled. */
async function carriedOver(
  rule: RecordRule,
  places: readonly RecordPlace[],
  { ours, to, now, way }: { readonly ours: string; readonly to: string; readonly now: string; readonly way: Direction },
): Promise<string | undefined> {
  const { readValue, writeValue } = await engine();
  try {
    let text = now;
    for (const place of places) {
      const at = rule[place];
      if (at === undefined) continue;
      const one = { ...rule, at };
      // What others have set to something else meanwhile is theirs.
      if (way === 'back' && readValue(text, one) !== readValue(ours, one)) continue;
      text = writeValue(text, one, readValue(to, one));
    }
    return text;
  } catch (error) {
    if (isFailure(error)) return undefined;
    throw error;
  }
}

/** What still keeps a folder as it is held. */
export type MeansNow = Pick<HoldCheck, 'setting' | 'lock' | 'unlocked'>;

/** Files whose flags are looked at where not all are: a browser's disk opens a file for each. */
const MOST_LOOKED_AT = 500;

function sampled(paths: readonly string[]): readonly string[] {
  const step = Math.max(1, Math.floor(paths.length / MOST_LOOKED_AT));
  return paths.filter((_, i) => i % step === 0);
}

/**
 * What of the means that hold a folder stands just now; nothing of one that can only be looked at.
 * @param hold with the files that were made read-only by it
 * @param all whether the flags of all of them are looked at, or of some until one is found that can be written again
 */
export async function holdMeans(install: Install, hold: HoldRecord | undefined, all: boolean): Promise<MeansNow> {
  if (!(await canChange(install.place))) return {};
  const { disk } = changesOf(install);
  const means = await recordMeans(disk, await recordOf(install));
  if (!hold?.locked) return means;
  const unlockedOf = async (files: readonly string[]): Promise<number> => {
    const paths = files.map((path) => treePath(install.tree, path));
    return paths.length - (await disk.readOnlyOf(paths)).size;
  };
  const seen = await unlockedOf(all ? hold.locked : sampled(hold.locked));
  // Of some, only that none is unlocked says something of all.
  return { ...means, unlocked: all || seen === 0 ? seen : await unlockedOf(hold.locked) };
}

/** Whether the storefront's record stops updates, and is locked; nothing is said where there is none that can be read. */
async function recordMeans(disk: RecordDisk, record: RecordOf | undefined): Promise<Omit<MeansNow, 'unlocked'>> {
  try {
    const now = await recordValue(disk, record);
    return now ? { setting: now.value === record!.rule.stops, lock: now.isReadOnly } : {};
  } catch (error) {
    // One that cannot be reached, or is not as the rules say, holds nothing; it is told where it is looked at.
    if (isFailure(error)) return {};
    throw error;
  }
}
