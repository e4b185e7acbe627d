import { inLanes } from '#core/calls';
import {
  type Aside,
  asideOf,
  type Direction,
  isAsRead,
  type Journalled,
  type Met,
  type NamedFile,
  othersIn,
  type Parting,
  partings,
  type Spoiled,
  spoiledIn,
  treeFolder,
} from '#core/changes';
import { type OwnKind, ownKind } from '#core/builds';
import { type ContentKey, keySize } from '#core/digest';
import { isFailure } from '#core/failure';
import { type Changes, changesOf, recordSettlement, type Runner } from '~/changes';
import { jobs } from '~/jobs';
import { query } from '~/queries';
import { getBytes, tokenFor } from '~/remote';
import { getGame, getInstall, getSession, type Install } from '~/store';
import { inPool } from './in-pool';

/* What is looked at before changes are turned, or what they keep is deleted: what a person has to know, and may decide. */

const looking = async <T>(work: (runner: Runner) => Promise<T>): Promise<T> =>
  inPool((pool) => work({ pool, add: () => undefined, pausing: (asked) => asked(new AbortController().signal) }));

/** A file of the player's that differs between the folder that is put aside and the one that comes. */
export interface PartingView extends Parting {
  /** By the game's rules; undefined for what no rule and no source knows. */
  readonly kind: OwnKind | undefined;
}

/** What turning changes comes upon. */
export interface TurnAhead {
  readonly sets: readonly string[];
  readonly way: Direction;
  /** Files that others have changed since. */
  readonly met: readonly Met[];
  /** Where whole folders are swapped. */
  readonly partings: readonly PartingView[];
  /** What is otherwise in the folder that comes than when it was put aside; undefined where none comes, or all is as it was. */
  readonly spoiled?: Spoiled | undefined;
}

/** The tree that counts now and the one that turning sets brings in the end, and what is known of that. */
interface Swap {
  readonly leaving: string;
  readonly coming: string;
  readonly aside: Aside | undefined;
}

/**
 * @param leaving the tree that counts now
 * @returns undefined where no trees are swapped
 */
function swapOf(journals: readonly Journalled[], way: Direction, leaving: string): Swap | undefined {
  const swapping = journals.flatMap((one) => {
    const exchange = one.set.steps.find((step) => step.do === 'exchange');
    return exchange && !(one.ended && one.way === way) ? [{ one, exchange }] : [];
  });
  const last = swapping.at(-1);
  const coming = way === 'on' ? last?.exchange.to : last?.exchange.from;
  // One that was cut off after the two were swapped swaps nothing more.
  if (!last || coming === undefined || coming === leaving) return undefined;
  return { leaving, coming, aside: asideOf(last.one, leaving) };
}

/** What swapping two folders comes upon. Files that both have by name but not by time are read, where one of them may be the player's. */
async function swapAhead(
  install: Install,
  changes: Changes,
  runner: Runner,
  { leaving, coming, aside }: Swap,
): Promise<Pick<TurnAhead, 'partings' | 'spoiled'>> {
  const { rules } = await getGame(install.game);
  const known = new Map(
    (await query('leavesOf', install.id)).map(([path, key, modified, own]) => [path, { key, modified, own }]),
  );
  const [left, came] = await Promise.all([leaving, coming].map((tree) => changes.disk.list(treeFolder(tree))));
  const others = new Set(aside ? othersIn(aside, came!).map(({ path }) => path) : []);
  const isOwn = (path: string): boolean => ownKind(rules, path) !== undefined;
  const differ = partings([treeFolder(leaving), left!], [treeFolder(coming), came!], {
    leaving: (path, file) => {
      const is = known.get(path);
      return isOwn(path) || is?.own !== false || !isAsRead(file, { key: is.key, modified: is.modified ?? undefined });
    },
    coming: (path, file) => isOwn(path) || others.has(file.path),
  });
  const both = differ.filter((one) => one.leaving && one.coming && one.leaving.size === one.coming.size);
  const [a, b] = await Promise.all(
    [leaving, coming].map((tree) =>
      changes.keysOf(
        runner,
        both.map(({ path }) => `${treeFolder(tree)}/${path}`),
      ),
    ),
  );
  const same = new Set(both.flatMap(({ path }, i) => (a![i] === b![i] ? [path] : [])));
  const spoiled = aside && spoiledIn(aside, came!);
  return {
    // The list of mods is written by every plan anew.
    partings: differ.flatMap((one) =>
      same.has(one.path) || one.path === rules.loadOrder ? [] : [{ ...one, kind: ownKind(rules, one.path) }],
    ),
    ...(spoiled && spoiled.gone.length + spoiled.changed.length > 0 && { spoiled }),
  };
}

/** Looks at what turning changes comes upon, before anything is changed. @throws Failure `changes/*`, `folder/*`, `served/*` */
export async function lookAhead(installId: string, sets: readonly string[], way: Direction): Promise<TurnAhead> {
  const install = await getInstall(installId);
  const changes = changesOf(install);
  const journals = (await Promise.all(sets.map((set) => changes.read(set)))).filter((one) => one !== undefined);
  const swap = swapOf(journals, way, await changes.disk.current());
  return looking(async (runner) => {
    const met = await changes.met(runner, sets, way);
    // The storefront's record takes its values back by itself.
    const ofRecord = await Promise.all(
      journals.map(async (one) => (await recordSettlement(runner, changes, install, one, way)) && one.set.id),
    );
    const asked = met.filter(({ set, path }) => !ofRecord.includes(set) || path.startsWith(treeFolder('')));
    const swapped = swap ? await swapAhead(install, changes, runner, swap) : { partings: [] };
    return { sets, way, met: asked, ...swapped };
  });
}

/**
 * Turns changes, with what was decided.
 * @param theirs paths at which what others have stays; elsewhere ours comes back, where it can
 * @param along files that come along from the folder that is put aside
 */
export const turnChanges = (
  installId: string,
  { sets, way, met }: TurnAhead,
  theirs: ReadonlySet<string> = new Set(),
  along: readonly string[] = [],
): Promise<string> =>
  jobs.start('take-back', installId, {
    ...{ sets, way, along },
    settle: met.flatMap(({ path, choices, settlements }) =>
      theirs.has(path) || !choices.includes('ours') ? settlements.theirs : settlements.ours,
    ),
  });

/** Whether turning changes comes upon nothing that a person has to know first. */
export const isPlain = ({ met, partings: own, spoiled }: TurnAhead): boolean =>
  met.length === 0 && own.length === 0 && !spoiled;

/** What deleting what a change keeps would lose, or what nothing refers to. */
export interface LossAhead {
  /** Undefined where no change has it. */
  readonly set: string | undefined;
  /** For good, as far as is known: no source has it, and it lies nowhere else on the drive. */
  readonly lost: readonly {
    readonly path: string;
    readonly at: string;
    readonly key: ContentKey;
    readonly kind: OwnKind;
    readonly modified: number | null;
  }[];
  /** What a source tells of: how much that is, how many were asked for, and how many the source has just now. */
  readonly again: { readonly files: number; readonly bytes: number; readonly asked: number; readonly there: number };
  readonly named: readonly NamedFile[];
}

/** Of many contents so many are asked for: it is the same few sources that answer. */
const MOST_ASKED = 64;
const LANES = 6;

/** How many of some contents their sources have just now. */
async function answered(install: Install, again: readonly (readonly [ContentKey, string])[]): Promise<number> {
  const session = await getSession(install.game);
  const { signal } = new AbortController();
  let there = 0;
  await inLanes(again, LANES, { gate: () => undefined }, async ([key, href]) => {
    const wish = { start: 0, end: Math.min(1, keySize(key)), token: tokenFor(href, session?.token), signal };
    try {
      await getBytes(href, keySize(key), wish);
      there += 1;
    } catch (error) {
      if (!isFailure(error)) throw error;
      // Who gives whole files only has it as well.
      if (isFailure(error, 'service/no-ranges')) there += 1;
    }
  });
  return there;
}

/**
 * Looks at what deleting what a change keeps would lose, or what nothing refers to; undefined where there is nothing any more.
 * @throws Failure as {@link lookAhead}
 */
export async function lookAtLoss(installId: string, set?: string): Promise<LossAhead | undefined> {
  const install = await getInstall(installId);
  const kept = await (set === undefined ? query('whatIsUnclaimed', installId) : query('whatIsKept', installId, set));
  if (!kept) return undefined;
  const { alone, named } = kept;
  const unread = alone.filter(({ key }) => key === undefined);
  const keys =
    unread.length === 0
      ? []
      : await looking((runner) =>
          changesOf(install).keysOf(
            runner,
            unread.map(({ at }) => at),
          ),
        );
  const read = new Map(unread.map(({ at }, i) => [at, keys[i] ?? undefined]));
  const elsewhere = await query(
    'elsewhereOf',
    installId,
    set,
    keys.filter((key) => key !== null),
  );
  const again = [...new Map([...kept.again, ...elsewhere.again])];
  const had = new Set([...elsewhere.there, ...again.map(([key]) => key)]);
  const asked = again.filter((_, i) => i % Math.ceil(again.length / MOST_ASKED) === 0);
  return {
    ...{ set, named },
    lost: alone.flatMap(({ path, at, kind, modified, ...file }) => {
      const key = file.key ?? read.get(at);
      return key === undefined || had.has(key) ? [] : [{ path, at, kind, modified, key }];
    }),
    again: {
      files: again.length,
      bytes: again.reduce((sum, [key]) => sum + keySize(key), 0),
      asked: asked.length,
      there: await answered(install, asked),
    },
  };
}

/** Deletes what a change keeps, or what nothing refers to; of what it would lose for good, these are kept in a keepsake. */
export const deleteKept = (
  installId: string,
  { set, lost, named }: LossAhead,
  keep: ReadonlySet<string>,
): Promise<string> => jobs.start('let-go', installId, { set, named, keep: lost.filter(({ at }) => keep.has(at)) });

/** Deletes what changes keep, all that nobody else is known to have in a keepsake first. @throws Failure as {@link lookAtLoss} */
export async function deleteAllKept(installId: string, sets: readonly string[]): Promise<void> {
  for (const set of sets) {
    const loss = await lookAtLoss(installId, set);
    // Each is looked at once what was before it is gone: of two that keep the same file the last one has it alone.
    if (loss) await jobs.ended(await deleteKept(installId, loss, new Set(loss.lost.map(({ at }) => at))));
  }
}
