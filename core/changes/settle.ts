import { z } from 'zod';
import { contentKey, type ContentKey, keySize, PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import type { ChangePorts } from './disk';
import type { Direction, Journalled } from './journal';
import { SafePathSchema } from '#core/paths';
import { ChangeSetIdSchema, keptPath, KeySchema, PLACES, SettlementSchema, type Step } from './schema';
import { changedPaths, notAs } from './steps';

/*
 * Where others have changed what change sets are to turn: told before the first byte moves, and decided file by file. What
 * they have stays, or ours comes back and theirs is kept in its place.
 */

/** Whose bytes a path has afterwards. */
const WhoseSchema = z.enum(['theirs', 'ours']);
export type Whose = z.infer<typeof WhoseSchema>;

const SettledStepSchema = z.tuple([ChangeSetIdSchema, SettlementSchema]).readonly();
export type SettledStep = z.infer<typeof SettledStepSchema>;

/** One file that is not as sets left it, or expect it. */
export const MetSchema = z.object({
  path: SafePathSchema,
  /** The set that meets it first. */
  set: ChangeSetIdSchema,
  /** What lies there then; null: nothing. */
  found: KeySchema.nullable(),
  /** Ours cannot come where our own bytes are gone. */
  choices: z.array(WhoseSchema).readonly(),
  /** What becomes of the steps that touch the path, for each choice. */
  settlements: z.record(WhoseSchema, z.array(SettledStepSchema).readonly()).readonly(),
});
export type Met = Readonly<z.infer<typeof MetSchema>>;

type Ports = Pick<ChangePorts, 'disk' | 'hash'>;
type Touching = Extract<Step, { do: 'place' | 'take' | 'move' }>;

const isTouching = (step: Step): step is Touching => step.do === 'place' || step.do === 'take' || step.do === 'move';

/** What a step meets at a path, and what it may become. */
interface Meeting {
  readonly path: string;
  readonly found: ContentKey | null;
  readonly ours?: Step;
}

/** A place of the set's own for bytes of others, beside what it has got ready for the step. */
const theirsPath = (set: string, step: number): string => `${PLACES.staged}/${set}/theirs-${step}.dat`;

/** The disk as it will lie once some steps have been turned: where what will be at a path lies now. */
class Foreseen {
  readonly #moved = new Map<string, string | null>();

  constructor(private readonly ports: Ports) {}

  lies(path: string): string | null {
    const moved = this.#moved.get(path);
    return moved === undefined ? path : moved;
  }

  /** @param from where the bytes lie now; null: nothing will lie there */
  put(path: string, from: string | null): void {
    this.#moved.set(path, from);
  }

  async isThere(path: string): Promise<boolean> {
    return (await this.ports.disk.stat(path)) !== undefined;
  }

  /**
   * The key of what will lie at a path, null where nothing does.
   * @param expected keys that are tried first, since a key tells how it is cut
   * @throws Failure `folder/*` where it cannot be read
   */
  async keyAt(path: string, ...expected: readonly (ContentKey | null)[]): Promise<ContentKey | null> {
    const at = this.lies(path);
    return at === null ? null : keyAt(at, this.ports, expected);
  }
}

/**
 * The key of what lies at a path, null where nothing does.
 * @param expected keys that are tried first, since a key tells how it is cut
 * @throws Failure `folder/*` where it cannot be read
 */
export async function keyAt(
  path: string,
  ports: Ports,
  expected: readonly (ContentKey | null)[] = [],
): Promise<ContentKey | null> {
  const entry = await ports.disk.stat(path);
  if (!entry) return null;
  for (const key of expected) {
    const isSized = key !== null && entry.size === keySize(key);
    if (isSized && (await notAs([{ path, key }], ports)).length === 0) return key;
  }
  const [outcome] = await ports.hash([{ path, size: entry.size, pieceSize: PIECE_SIZE }]);
  if (outcome && 'pieces' in outcome) return contentKey(outcome.size, outcome.pieces);
  if (outcome?.code === 'folder/not-found') return null;
  throw new Failure(outcome?.code ?? 'folder/failed', { path });
}

/** What a step that is to be taken back meets; undefined where all is as it expects. */
async function meetingBack(step: Touching, set: string, number: number, there: Foreseen): Promise<Meeting | undefined> {
  const isKept = await there.isThere(keptPath(set, number));
  switch (step.do) {
    case 'place': {
      const { to: path, key, before } = step;
      if (await there.isThere(step.from)) {
        if (before === null || !isKept) return undefined;
        const found = await there.keyAt(path, key, before);
        if (found === null || found === key || found === before) return undefined;
        return { path, found, ours: { ...step, from: theirsPath(set, number), key: found } };
      }
      const found = await there.keyAt(path, key);
      // What it has put aside is gone: what it has put in place is better than nothing.
      if (before !== null && !isKept) return { path, found };
      if (found === key) return undefined;
      if (found !== null) return { path, found, ours: { ...step, key: found } };
      return { path, found, ...(before !== null && { ours: { do: 'take', path, key: before } }) };
    }
    case 'take': {
      const { path, key } = step;
      const found = await there.keyAt(path, key);
      if (!isKept) return found === null ? { path, found } : undefined;
      if (found === null || found === key) return undefined;
      const from = theirsPath(set, number);
      return { path, found, ours: { do: 'place', from, to: path, key: found, before: key } };
    }
    case 'move': {
      const [to, from] = [await there.keyAt(step.to, step.key), await there.keyAt(step.from, step.key)];
      // Never made, or cut off between the copy and the removal that it is.
      if (from === step.key || (from !== null && to === null)) return undefined;
      if (from !== null) return { path: step.from, found: from };
      if (to === step.key) return undefined;
      return { path: step.to, found: to, ...(to !== null && { ours: { ...step, key: to } }) };
    }
  }
}

/** What a step that is to be made, once more or to its end, meets; undefined where all is as it expects. */
async function meetingOn(step: Touching, set: string, number: number, there: Foreseen): Promise<Meeting | undefined> {
  const isKept = await there.isThere(keptPath(set, number));
  switch (step.do) {
    case 'place': {
      const { to: path, key, before } = step;
      const isReady = await there.isThere(step.from);
      const found = await there.keyAt(path, key, before);
      if (!isReady) return found === key ? undefined : { path, found };
      if (isKept) return found === null || found === key || found === before ? undefined : { path, found };
      if (found === before || (before === null && found === key)) return undefined;
      return { path, found, ours: { ...step, before: found } };
    }
    case 'take': {
      const { path, key } = step;
      const found = await there.keyAt(path, key);
      if (isKept || found === key) return undefined;
      return { path, found, ...(found !== null && { ours: { ...step, key: found } }) };
    }
    case 'move': {
      const [from, to] = [await there.keyAt(step.from, step.key), await there.keyAt(step.to, step.key)];
      if (from === null) return to === step.key ? undefined : { path: step.to, found: to };
      if (to !== null && to !== step.key) return { path: step.to, found: to };
      return from === step.key ? undefined : { path: step.from, found: from, ours: { ...step, key: from } };
    }
  }
}

/** Notes where things will lie once a step has gone this way. */
function foresee(step: Touching, set: string, number: number, way: Direction, there: Foreseen): void {
  const kept = keptPath(set, number);
  switch (step.do) {
    case 'place':
      there.put(step.to, way === 'on' ? step.from : step.before === null ? null : kept);
      return;
    case 'take':
      there.put(step.path, way === 'on' ? null : kept);
      return;
    case 'move': {
      const [from, to] = way === 'on' ? [step.from, step.to] : [step.to, step.from];
      there.put(to, there.lies(from));
      there.put(from, null);
    }
  }
}

/**
 * What sets that are to be turned one after the other meet that is not as they left it, or expect it: read from the disk as
 * it lies there, before anything is changed.
 * @param sets in the order in which they are turned
 * @throws Failure `folder/*` where a file cannot be read
 */
export async function whatTheyMeet(sets: readonly Journalled[], way: Direction, ports: Ports): Promise<Met[]> {
  const there = new Foreseen(ports);
  const meets = way === 'on' ? meetingOn : meetingBack;
  const met = new Map<string, { met: Met; theirs: SettledStep[]; ours: SettledStep[]; hasOurs: boolean }>();
  for (const { set } of sets) {
    const steps = [...set.steps.entries()];
    for (const [number, step] of way === 'on' ? steps : steps.toReversed()) {
      if (!isTouching(step)) continue;
      const paths = changedPaths(step);
      const known = paths.map((path) => met.get(path)).find((one) => one !== undefined);
      const meeting = await meets(step, set.id, number, there);
      const given: SettledStep = [set.id, { step: number, as: { do: 'leave', path: meeting?.path ?? paths[0]! } }];
      // What stays theirs stays so for all that touch it later.
      known?.theirs.push(given);
      if (!meeting) {
        if (await isTurned(step, set.id, number, way, there)) continue;
        foresee(step, set.id, number, way, there);
        continue;
      }
      const { path, found, ours } = meeting;
      const own: SettledStep = ours ? [set.id, { step: number, as: ours }] : given;
      if (known) known.ours.push(own);
      else {
        const settlements = { theirs: [given], ours: [own] };
        const one = { path, set: set.id, found, choices: [], settlements };
        for (const at of paths) met.set(at, { met: one, ...settlements, hasOurs: ours !== undefined });
      }
      if (ours && isTouching(ours)) foresee(ours, set.id, number, way, there);
    }
  }
  const all = new Map([...met.values()].map((one) => [one.met, one.hasOurs]));
  return [...all]
    .map(([one, hasOurs]): Met => ({ ...one, choices: hasOurs ? ['theirs', 'ours'] : ['theirs'] }))
    .toSorted((a, b) => (a.path < b.path ? -1 : 1));
}

/** Whether nothing is left to do for a step to have gone this way, so that nothing will move. */
async function isTurned(
  step: Touching,
  set: string,
  number: number,
  way: Direction,
  there: Foreseen,
): Promise<boolean> {
  switch (step.do) {
    case 'place':
      return (
        (await there.isThere(step.from)) === (way === 'back') &&
        (way === 'on' || !(await there.isThere(keptPath(set, number))))
      );
    case 'take':
      return (await there.isThere(keptPath(set, number))) === (way === 'on');
    case 'move':
      return (await there.keyAt(way === 'on' ? step.to : step.from, step.key)) === step.key;
  }
}
