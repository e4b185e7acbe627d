import { keySize } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import { asideOf, othersIn } from './aside';
import type { ChangePorts } from './disk';
import { type Direction, enter, type Journalled, listOpen, openJournal, readJournal, removeJournal } from './journal';
import { entryOf, putHistory } from './history';
import { isBelow } from '#core/paths';
import {
  assertAllowed,
  assertSettles,
  type ChangeSet,
  keptPath,
  type Leaves,
  PLACES,
  type Settlement,
  type Step,
  textKey,
  treeFolder,
} from './schema';
import { changedPaths, isMade, isReady, makeReady, makeStep, notAs, type Ready, type Single, takeBack } from './steps';

/*
 * Runs change sets. The laws, held by generated tests with a cut at every change of the disk:
 * - going on after a cut anywhere gives the same tree as no cut;
 * - going on and then back gives the tree that was there before;
 * - whatever a step displaced lies in the set's own folder, with its bytes, until the set is let go.
 */

/** Files that are got ready between two entries of the journal: it is made durable so often. */
const BATCH_FILES = 2000;
const BATCH_BYTES = 64 << 20;
/** At a time within a batch. */
const LANES = 4;

/** Steps of which each brings one file to where it stays: a file that was got ready is only put in its place. */
const isCounted = (step: Step): boolean => isReady(step) || step.do === 'move' || step.do === 'take';

/** What {@link run} tells of steps as its progress when it makes them from the first on. */
export function progressOf(steps: readonly Step[]): { files: number; bytes: number } {
  const bytes = steps.reduce((sum, step) => sum + (isReady(step) ? keySize(step.key) : 0), 0);
  return { files: steps.filter(isCounted).length, bytes };
}

function assertGoing({ signal }: ChangePorts): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/** The end of the batch that begins at a step: files to be got ready come many at once, every other step alone. */
function batchEnd(steps: readonly Step[], start: number): number {
  let bytes = 0;
  let end = start;
  while (end < steps.length && isReady(steps[end]!) && end - start < BATCH_FILES && bytes < BATCH_BYTES) {
    const step = steps[end++]!;
    if (isReady(step)) bytes += keySize(step.key);
  }
  return Math.max(end, start + 1);
}

async function putDown(files: readonly Ready[], ports: ChangePorts): Promise<void> {
  let next = 0;
  const lane = async (): Promise<void> => {
    for (let step = files[next++]; step; step = files[next++]) {
      assertGoing(ports);
      await makeReady(step, ports);
      ports.progress({ files: 1, bytes: keySize(step.key) });
    }
  };
  // One lane that fails must not leave others writing behind it.
  const outcomes = await Promise.allSettled(Array.from({ length: LANES }, lane));
  for (const outcome of outcomes) if (outcome.status === 'rejected') throw outcome.reason;
  await ports.disk.sync(files.map(({ to }) => to));
}

/** @throws Failure `folder/changed-meanwhile` where other bytes have been put down than were planned; they are removed */
async function assertRight(files: readonly Ready[], ports: ChangePorts): Promise<void> {
  const made = files.map(({ to, key }) => ({ path: to, key }));
  const wrong = new Set(await notAs(made, ports));
  for (const path of wrong) await ports.disk.remove(path);
  const first = files.find(({ to }) => wrong.has(to));
  if (first) throw new Failure('folder/changed-meanwhile', { path: first.do === 'copy' ? first.from : first.to });
}

/** A batch whose files have been put down, and are being read again. */
interface Checking {
  readonly files: readonly Ready[];
  readonly end: number;
  readonly right: Promise<void>;
}

async function makeAll(at: Journalled, ports: ChangePorts): Promise<Journalled> {
  const { set } = at;
  let checking: Checking | undefined;
  /** What this run has read again: nobody else writes there, so it need not be read once more to be moved. */
  const proven = new Set<string>();
  const checked = async (): Promise<void> => {
    const batch = checking;
    checking = undefined;
    if (!batch) return;
    await batch.right;
    for (const { to } of batch.files) proven.add(to);
    at = await enter(ports, at, { do: 'reached', steps: batch.end });
  };
  try {
    for (let i = at.reached; i < set.steps.length;) {
      assertGoing(ports);
      const [start, end] = [i, batchEnd(set.steps, i)];
      const files = set.steps.slice(start, end).filter(isReady);
      i = end;
      if (files.length === 0) {
        await checked();
        const step = set.steps[start] as Single;
        await makeStep(step, set.id, start, ports, proven);
        if (isCounted(step)) ports.progress({ files: 1, bytes: 0 });
      } else if (end > at.ready) {
        // One batch is read again while the next one is put down.
        await putDown(files, ports);
        await checked();
        const right = assertRight(files, ports);
        // Whoever waits for it hears of its failure; until then it is nobody's.
        right.catch(() => undefined);
        checking = { files, end, right };
      }
    }
    await checked();
    return at;
  } finally {
    await (checking as Checking | undefined)?.right.catch(() => undefined);
  }
}

/**
 * The first step behind which none has been made, or all have been taken back: whoever took one back that was never made
 * would set a flag that the steps before it do not expect.
 */
async function lastBegun({ set, ready }: Journalled, ports: ChangePorts): Promise<number> {
  for (const [i, step] of set.steps.entries()) {
    // What was not got ready has not been put in place either.
    if (isReady(step) ? i >= ready : (await isMade(step, set.id, i, ports)) === false) return i;
  }
  return set.steps.length - 1;
}

/**
 * Puts texts where steps have what they put in place, or what they have displaced: others have written to those files since. A step
 * that has been made since has moved its text already.
 */
async function putTexts({ set, texts }: Journalled, ports: ChangePorts): Promise<void> {
  const { disk, encode, sha256 } = ports;
  for (const [number, text] of texts) {
    const step = set.steps[number]!;
    if (step.do !== 'place') continue;
    const key = await textKey(text, sha256);
    const path = step.before === key ? keptPath(set.id, number) : step.from;
    if ((await disk.stat(path)) && (await notAs([{ path, key }], ports)).length > 0)
      await disk.writeWhole(path, encode(text));
  }
}

async function takeAllBack(at: Journalled, ports: ChangePorts): Promise<void> {
  const { set } = at;
  for (let i = await lastBegun(at, ports); i >= 0; i--) {
    const step = set.steps[i]!;
    if (!isReady(step)) await takeBack(step, set.id, i, ports);
  }
}

/** Where a set that has gone this way has put something: to be made durable before the end is written down. */
function putBy({ steps }: ChangeSet, way: Direction): string[] {
  const isOn = way === 'on';
  return steps.flatMap((step): string[] => {
    switch (step.do) {
      case 'place':
        return isOn || step.before !== null ? [step.to] : [];
      case 'move':
        return [isOn ? step.to : step.from];
      case 'take':
        return isOn ? [] : [step.path];
      case 'flag':
        return [step.path];
      case 'copy':
      case 'write':
      case 'exchange':
      case 'leave':
        return [];
    }
  });
}

/** Makes all that a set has put somewhere outlast a loss of power; what somebody has removed since is passed over. */
async function makeDurable(set: ChangeSet, way: Direction, { disk }: ChangePorts): Promise<void> {
  const paths = putBy(set, way);
  try {
    await disk.sync(paths);
  } catch (error) {
    if (!isFailure(error, 'folder/not-found')) throw error;
    const there = await Promise.all(paths.map((path) => disk.stat(path)));
    await disk.sync(there.flatMap((entry) => (entry ? [entry.path] : [])));
  }
}

/**
 * Writes a change set down and holds it to its places; one that is there already stays as it was decided.
 * @throws Failure `changes/not-allowed`, `changes/newer`, `changes/damaged`, `folder/*`
 */
export async function openSet(set: ChangeSet, ports: ChangePorts): Promise<Journalled> {
  const known = await readJournal(ports, set.id);
  if (known) return known;
  assertAllowed(set);
  return openJournal(ports, set);
}

/**
 * Of the trees of an install a set changes the game's folder alone. One that was put aside stays as it is, or what is known
 * of it would be so no longer.
 * @throws Failure `changes/superseded` with the tree that counts, and the one that it would change
 */
async function assertOfGame({ steps }: ChangeSet, { disk }: ChangePorts): Promise<void> {
  const current = await disk.current();
  const swapped = steps.some((step) => step.do === 'exchange' && (step.from === current || step.to === current));
  for (const step of steps) {
    const expected = step.do === 'exchange' && !swapped ? step.from : otherTree(step, current);
    if (expected !== undefined) throw new Failure('changes/superseded', { found: current, expected });
  }
}

/** While a set is between two states nothing else is begun: only it can be gone on with, or back. @throws Failure `changes/unfinished` */
async function assertAlone({ set, ended, way }: Journalled, ports: ChangePorts): Promise<void> {
  if (way !== undefined && !ended) return;
  const other = (await listOpen(ports)).find((id) => id !== set.id);
  if (other !== undefined) throw new Failure('changes/unfinished', { set: other });
}

/** The tree that a step changes, where it is not the one that counts. */
function otherTree(step: Step, current: string): string | undefined {
  const path = isReady(step)
    ? undefined
    : changedPaths(step).find((at) => isBelow(at, PLACES.trees) && !isBelow(at, treeFolder(current)));
  return path?.split('/')[1];
}

/**
 * A set that begins must find the game's folder as it was planned from, and nobody else's files where it gets its own ready.
 * @throws Failure `changes/superseded`, `changes/not-allowed`
 */
async function assertFresh(set: ChangeSet, { disk }: ChangePorts): Promise<void> {
  const current = await disk.current();
  for (const [i, step] of set.steps.entries()) {
    if (step.do !== 'exchange') continue;
    if (current !== step.from) throw new Failure('changes/superseded', { found: current, expected: step.from });
    // A tree that only changes its place has been there before; one that is made here has not.
    const isMade = set.steps.some((other) => isReady(other) && other.to.startsWith(`${treeFolder(step.to)}/`));
    if (isMade && (await disk.list(treeFolder(step.to))).length > 0)
      throw new Failure('changes/not-allowed', { set: set.id, step: i, what: step.do, path: treeFolder(step.to) });
  }
}

/** The tree that a set puts aside when it goes this way; undefined where it swaps none. */
function leavingBy({ steps }: ChangeSet, way: Direction): string | undefined {
  const exchange = steps.find((step) => step.do === 'exchange');
  return way === 'on' ? exchange?.from : exchange?.to;
}

/** What is known, and was decided, when a set is turned. */
export interface Turning {
  /** What lies in the game's folder, as it was read last, where the set puts that aside. */
  readonly leaves?: Leaves | undefined;
  /** What becomes of steps that meet other bytes than they expect. */
  readonly settle?: readonly Settlement[] | undefined;
}

/**
 * Goes on with a change set, or back, from wherever it stands, to the end.
 * @param opened the set as it was read, or written down, just now
 * @throws Failure `changes/unknown`, `changes/let-go`, `changes/superseded`, `changes/not-allowed`, `folder/*`,
 *   `job/cancelled`; it can be gone on with, or back, after each of them
 */
export async function run(
  id: string,
  way: Direction,
  ports: ChangePorts,
  opened?: Journalled,
  { leaves, settle = [] }: Turning = {},
): Promise<Journalled> {
  let at = opened ?? (await readJournal(ports, id));
  if (!at) throw new Failure('changes/unknown', { set: id });
  if (at.lettingGo) throw new Failure('changes/let-go', { set: id });
  if (at.ended && at.way === way) return at;
  if (at.way === undefined && way === 'back') return enter(ports, at, { do: 'end', way, at: ports.now() });
  const isTurned = at.way !== way || at.ended;
  if (isTurned) await assertAlone(at, ports);
  await assertOfGame(at.set, ports);
  if (at.way === undefined) await assertFresh(at.set, ports);
  for (const settlement of settle) {
    await assertSettles(at.set, settlement, ports);
    at = await enter(ports, at, { do: 'settle', ...settlement });
  }
  if (isTurned) {
    // Turned before the two were swapped, a set puts nothing aside that anybody could have told of.
    const told = leaves && (await ports.disk.current()) === leavingBy(at.set, way) ? { leaves } : {};
    at = await enter(ports, at, { do: 'begin', way, at: ports.now(), ...told });
  }
  await putTexts(at, ports);
  if (way === 'on') at = await makeAll(at, ports);
  else await takeAllBack(at, ports);
  await makeDurable(at.set, way, ports);
  return enter(ports, at, { do: 'end', way, at: ports.now() });
}

/** A file that a person has seen named before it is deleted: its path on the disk, size in bytes, and time. */
export type NamedFile = readonly [path: string, size: number, modified: number];

/**
 * What is removed is looked through once more before it goes: files that may be somebody's must have been named, as they are now.
 * @throws Failure `changes/not-named` with the first such file
 */
export function assertNamed(files: readonly FolderEntry[], named: readonly NamedFile[]): void {
  const seen = new Map(named.map(([path, ...is]) => [path, is]));
  const unnamed = files.filter(({ path, size, modified }) => {
    const is = seen.get(path);
    return is?.[0] !== size || is[1] !== modified;
  });
  const [first] = unnamed;
  if (first) throw new Failure('changes/not-named', { path: first.path, files: unnamed.length });
}

/** Of a folder that a set has put aside what nobody has read there, such as what a player has done in it: it is named before it goes. */
async function othersKept(at: Journalled, { disk }: ChangePorts): Promise<FolderEntry[]> {
  const aside = asideOf(at, await disk.current());
  return aside?.counted ? othersIn(aside, await disk.list(treeFolder(aside.tree))) : [];
}

/**
 * Removes all that a set that has ended keeps, and its journal: it cannot be taken back or made again any more. What is
 * the game's folder is never touched.
 * @param named files of a folder that it keeps put aside which were not read before, or changed since, and may go all the same
 * @throws Failure `changes/unfinished`, `changes/not-named`, `folder/*`
 */
export async function letGo(id: string, ports: ChangePorts, named: readonly NamedFile[] = []): Promise<void> {
  let at = await readJournal(ports, id);
  // Its journal is removed last; without one that can be read, nothing of it was ever begun.
  if (!at) return removeJournal(ports, id);
  if (!at.ended && at.way !== undefined) throw new Failure('changes/unfinished', { set: id });
  if (!at.lettingGo) {
    assertNamed(await othersKept(at, ports), named);
    at = await enter(ports, at, { do: 'let-go' });
  }
  // Of what was ever begun, what it did is told on.
  const state = at.way === 'on' ? 'let-go' : 'undone';
  if (at.way !== undefined) await putHistory(ports, { ...entryOf(at), state, letGoAt: ports.now() });
  const current = await ports.disk.current();
  for (const step of at.set.steps) {
    // Never begun, it has made none. Made, it keeps the tree that was the game's folder before; taken back, the one that it
    // has made.
    const tree = step.do === 'exchange' && (at.way === 'on' ? step.from : step.to);
    if (at.way !== undefined && tree && tree !== current) await ports.disk.remove(treeFolder(tree));
  }
  await ports.disk.remove(`${PLACES.staged}/${id}`);
  await ports.disk.remove(`${PLACES.kept}/${id}`);
  await removeJournal(ports, id);
}
