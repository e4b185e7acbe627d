import { z } from 'zod';
import { contentKey, type ContentKey, keyPieces, keySize, type Sha256 } from '#core/digest';
import { Failure } from '#core/failure';
import { SafePathSchema, topFolder } from '#core/paths';
import { utf8Length } from '#core/text';

/** A set that was written by a newer version of the program is not touched. */
export const CHANGES_VERSION = 6;

/** The store's folder where it lies in the game's own. It is in no list of the game. */
export const STORE_FOLDER = 'regressum-store';

/** Whether a path of a game's folder lies in a store: its own, or that of another game which lies in it. */
export const isInStore = (path: string): boolean => path.split('/').includes(STORE_FOLDER);

/** Where things lie on an install's disk, beside whatever else of the game's there is. The last two are shared. */
export const PLACES = {
  /** One folder a tree; one of them is the game's folder. */
  trees: 'trees',
  /** What a change set has got ready, a folder each. */
  staged: 'staged',
  /** What a change set has displaced, a folder each. */
  kept: 'kept',
  journal: 'journal',
  /** What of each change is told after it was let go, and what others have changed. */
  history: 'history',
  /** Copies of the player's own files. */
  keepsakes: 'keepsakes',
  /** Contents that are on their way into the store. */
  arriving: 'arriving',
  /** Contents by their keys, shared by all games of a volume. */
  contents: 'contents',
  /** Places outside the game's folder that a person pointed at, each by its name: such as a storefront's record. */
  beside: 'beside',
  /** Why contents are kept; shared with them. */
  references: 'references',
  /** What is on its way out while two trees are exchanged. */
  leaving: 'leaving',
} as const;

export const isKey = (text: string): boolean =>
  /^\d{1,16}(\/\d{1,16})?:([0-9a-f]{64})+$/.test(text) && Number.isSafeInteger(keySize(text as ContentKey));
export const KeySchema = z
  .string()
  .refine(isKey)
  .transform((text) => text as ContentKey);
export const ChangeSetIdSchema = z.string().regex(/^[A-Za-z0-9][A-Za-z0-9-]{0,63}$/);
const TreeSchema = z.string().regex(/^[a-z0-9][a-z0-9-]{0,39}$/);
/** A text that is written is small: lists of mods, records, settings. */
const MOST_TEXT = 1 << 20;

/**
 * What lies in a tree that is put aside, as it was read before: path, key, the time that the file had then (milliseconds since
 * 1970, null where a disk does not tell it), and whether it is a player's, so that no source and no plan has it. Before version 6
 * neither was noted.
 */
export const LeavesSchema = z
  .array(
    z.union([
      z.tuple([SafePathSchema, KeySchema, z.number().nullable(), z.boolean()]),
      z.tuple([SafePathSchema, KeySchema]),
    ]),
  )
  .max(2_000_000);
export type Leaves = z.infer<typeof LeavesSchema>;

/**
 * One change, small enough to have happened or not. Paths are those of the disk. What a step expects is named by its
 * content: over anything else it is not made.
 */
const StepSchema = z.discriminatedUnion('do', [
  /** Gets a copy ready, of a file with these bytes; it has the time of that file, or the one that is said. */
  z.object({
    do: z.literal('copy'),
    from: SafePathSchema,
    to: SafePathSchema,
    key: KeySchema,
    modified: z.number().exactOptional(),
  }),
  /** Gets a file ready, of a text. */
  z.object({ do: z.literal('write'), text: z.string().max(MOST_TEXT), to: SafePathSchema, key: KeySchema }),
  /** Moves what was got ready to its place; what lies there, with the bytes `before`, is kept. Null: nothing lies there. */
  z.object({
    do: z.literal('place'),
    from: SafePathSchema,
    to: SafePathSchema,
    key: KeySchema,
    before: KeySchema.nullable(),
  }),
  /** Takes a file out; it is kept. */
  z.object({ do: z.literal('take'), path: SafePathSchema, key: KeySchema }),
  /** Moves a file to where nothing lies. */
  z.object({ do: z.literal('move'), from: SafePathSchema, to: SafePathSchema, key: KeySchema }),
  z.object({ do: z.literal('flag'), path: SafePathSchema, readOnly: z.boolean(), before: z.boolean() }),
  /** Makes the tree `to` the game's folder instead of `from`, which stays as it is. */
  z.object({
    do: z.literal('exchange'),
    from: TreeSchema,
    to: TreeSchema,
    /** What lies in `from`, as far as it was read before: its contents are to be had there once it is put aside. */
    leaves: LeavesSchema.exactOptional(),
  }),
  /** What others have at a path since stays as it is: in the place of a step that was given up for them. */
  z.object({ do: z.literal('leave'), path: SafePathSchema }),
]);

/**
 * What becomes of one step that met other bytes than it expects, as a person has decided: it is given up for them, or made
 * with what lies there now.
 */
export const SettlementSchema = z.object({
  step: z.number().int().nonnegative(),
  as: StepSchema,
  /** What the step puts in place, or puts back, instead of what it would: of a record to which others have written since. */
  text: z.string().max(MOST_TEXT).exactOptional(),
});
export type Settlement = z.infer<typeof SettlementSchema>;

/** What a change set is for. */
export const CHANGE_KINDS = [
  'lay-down',
  'hold',
  'release',
  'switch-branch',
  'edit',
  'clean',
  'put-back',
  'switch-profile',
  'copy-folder',
  'delete-files',
  'move-files',
  'bring-along',
] as const;

export const ChangeSetSchema = z.object({
  version: z.number().int().min(1).max(CHANGES_VERSION),
  id: ChangeSetIdSchema,
  /** Milliseconds since 1970. */
  at: z.number(),
  /** What it is for, in the program's own words, and facts for the person. */
  what: z.enum(CHANGE_KINDS),
  facts: z.record(z.string(), z.string().max(500)),
  steps: z.array(StepSchema).max(2_000_000),
});

export type Step = z.infer<typeof StepSchema>;
/** A frozen plan: made once, from what was known then, and never worked out again. */
export type ChangeSet = z.infer<typeof ChangeSetSchema>;

export const treeFolder = (tree: string): string => `${PLACES.trees}/${tree}`;
export const stagedPath = (set: string, name: string | number): string => `${PLACES.staged}/${set}/${name}.dat`;
export const keptPath = (set: string, step: number): string => `${PLACES.kept}/${set}/${step}.dat`;

/** Whether a path lies where all games of a volume share what there is. */
export const isShared = (path: string): boolean =>
  [PLACES.contents, PLACES.references].some((place) => path === place || path.startsWith(`${place}/`));

/** Folders of the store; files beside them, such as the one that says which tree counts, belong to it too. */
const { trees: _, beside: __, ...STORE_PLACES } = PLACES;
const STORE: readonly string[] = ['', ...Object.values(STORE_PLACES)];

/** Whether a file is one that the store keeps of itself, and so no content. */
export const isOwnRecord = (path: string): boolean =>
  ([PLACES.journal, PLACES.history, PLACES.references] as readonly string[]).includes(topFolder(path));

/** Trees that the set makes. */
const madeTrees = ({ steps }: ChangeSet): string[] =>
  steps.flatMap((step) => (step.do === 'exchange' ? [`${treeFolder(step.to)}/`] : []));

/** Where a step puts something or takes it from. */
function pathsOf(step: Step): string[] {
  switch (step.do) {
    case 'copy':
    case 'write':
    case 'place':
      return [step.to];
    case 'take':
      return [step.path];
    case 'move':
      return [step.from, step.to];
    case 'flag':
    case 'leave':
      return [];
    case 'exchange':
      return [treeFolder(step.from), treeFolder(step.to)];
  }
}

/**
 * Holds a change set to the places that each kind of step may touch: what is got ready goes where only this set has
 * anything, and what lies in the store is touched by no step but of the set that put it there. No two steps touch a path
 * (flags aside), so that what lies there tells whether a step has been made.
 * @throws Failure `changes/not-allowed` with the step
 */
export function assertAllowed(set: ChangeSet): void {
  const own = [`${PLACES.staged}/${set.id}/`, ...madeTrees(set)];
  const isReady = (path: string): boolean => own.some((folder) => path.startsWith(folder));
  const isOutside = (path: string): boolean => !STORE.includes(topFolder(path)) && !isReady(path);
  const isAllowed = (step: Step): boolean => {
    switch (step.do) {
      case 'copy':
        return isReady(step.to) && !isReady(step.from) && !isOwnRecord(step.from);
      case 'write':
        return isReady(step.to) && keyPieces(step.key).length === 1;
      case 'place':
        return step.from.startsWith(own[0]!) && isOutside(step.to);
      case 'take':
        return isOutside(step.path);
      case 'move':
        return isOutside(step.from) && isOutside(step.to);
      case 'flag':
      case 'leave':
        return isOutside(step.path);
      case 'exchange':
        return step.from !== step.to;
    }
  };
  const bad = set.steps.findIndex((step) => !isAllowed(step));
  if (bad >= 0) throw new Failure('changes/not-allowed', { set: set.id, step: bad, what: set.steps[bad]!.do });
  const touched = new Set<string>();
  const placed = new Set<string>();
  for (const [i, step] of set.steps.entries()) {
    if (step.do === 'place' && placed.size === placed.add(step.from).size)
      throw new Failure('changes/not-allowed', { set: set.id, step: i, what: step.do, path: step.from });
    for (const path of pathsOf(step)) {
      if (touched.has(path)) throw new Failure('changes/not-allowed', { set: set.id, step: i, what: step.do, path });
      touched.add(path);
    }
  }
}

/** The key of a text of at most one piece. */
export const textKey = async (text: string, sha256: Sha256): Promise<ContentKey> =>
  contentKey(utf8Length(text), [await sha256(text)]);

/**
 * Holds a settlement to the files that its step touches: it may give them up, or be made with other bytes, and nothing more.
 * @throws Failure `changes/not-allowed` with the step
 */
export async function assertSettles(
  set: ChangeSet,
  { step: number, as, text }: Settlement,
  { sha256 }: { readonly sha256: Sha256 },
): Promise<void> {
  const refuse = (): never => {
    throw new Failure('changes/not-allowed', { set: set.id, step: number, what: as.do });
  };
  const step = set.steps[number];
  if (step?.do !== 'place' && step?.do !== 'take' && step?.do !== 'move') return refuse();
  const paths = pathsOf(step);
  const isOfStep = as.do === 'leave' ? paths.includes(as.path) : pathsOf(as).every((path) => paths.includes(path));
  if (!isOfStep || !['leave', 'place', 'take', 'move'].includes(as.do)) refuse();
  if (text !== undefined) {
    const key = await textKey(text, sha256);
    if (as.do !== 'place' || (as.before !== key && as.key !== key)) refuse();
  }
  assertAllowed({ ...set, steps: set.steps.with(number, as) });
}
