import { z } from 'zod';
import { ChangeSetSchema, InspectionSchema, KeySchema, LeavesSchema } from '#core/changes';
import { ActSchema } from '#core/contents';
import { MOST_PACKED, MOST_PARTS, MOST_PREFIX, MOST_UNPACKED } from '#core/bundles';
import { isPieceSize } from '#core/digest';
import { WireFailureSchema } from '#core/failure';

/* What the page and the server say to each other about served folders. Long answers are JSON, one value a line. */

/** Carries the token that the server prints at its start. */
export const SERVED_TOKEN_HEADER = 'x-regressum-token';

/** Folders that were named at the start, as the system writes them. */
export const ServedRootsSchema = z.object({ roots: z.array(z.string()) });

/** Why a file or folder could not be looked at. */
const ServedCodeSchema = z.enum([
  'folder/not-found',
  'folder/no-permission',
  'folder/not-a-file',
  'folder/too-deep',
  'folder/changed-meanwhile',
  'folder/failed',
  'served/outside',
  'served/root-replaced',
]);

/** A file that lies in a folder, or what of it could not be looked at. */
export const ServedEntrySchema = z.union([
  z.object({ path: z.string(), size: z.number().int().nonnegative(), modified: z.number() }),
  z.object({ path: z.string(), code: ServedCodeSchema }),
]);

export const ServedHashRequestSchema = z.object({
  root: z.string(),
  /** The game's folder below the root; empty where it is the root. */
  folder: z.string(),
  files: z
    .array(
      z.object({
        path: z.string(),
        size: z.number().int().nonnegative(),
        /** Bytes of the pieces, where they are not the usual ones. */
        pieceSize: z.number().refine(isPieceSize).optional(),
        /** Only the pieces from `first` up to, and without, `end`. */
        span: z.object({ first: z.number().int().nonnegative(), end: z.number().int().positive() }).optional(),
      }),
    )
    .max(1000),
});
export type ServedHashRequest = z.infer<typeof ServedHashRequestSchema>;

/** One file's outcome, at its place in the request. */
export const ServedHashSchema = z.union([
  z.object({
    index: z.number().int(),
    size: z.number().int(),
    bytes: z.number().int(),
    pieces: z.array(z.string().regex(/^[0-9a-f]{64}$/)),
  }),
  z.object({ index: z.number().int(), code: ServedCodeSchema }),
]);
export type ServedHash = z.infer<typeof ServedHashSchema>;
export type ServedCode = z.infer<typeof ServedCodeSchema>;

/** Whether a served folder may be changed, and what is known of its store. */
export const ServedStateSchema = z.object({
  write: z.boolean(),
  /** The tree that is the game's folder. */
  current: z.string(),
  /** Whether whole folders can be swapped: the store lies on the same volume. */
  swaps: z.boolean(),
  /** Where the store lies, as the system writes it. */
  store: z.string(),
  /** Whether it lies in the game's folder, and goes with it. */
  inGame: z.boolean(),
  /** Bytes free on the store's volume. */
  free: z.number(),
  /** Change sets that are between two states. */
  open: z.array(z.string()),
  /** Another one whenever journals or references of the store have changed. */
  stamp: z.string(),
});
export type ServedState = z.infer<typeof ServedStateSchema>;

/** Folders elsewhere below the roots, by what a disk calls them in `beside/`. */
export const ServedBesideSchema = z.record(
  z.string().regex(/^[a-z]{1,20}$/),
  z.object({
    ...{ root: z.string(), folder: z.string() },
    /** The contents that the folder's store keeps are meant, by their names; they are only read. */
    contents: z.literal(true).exactOptional(),
  }),
);
export type ServedBeside = z.infer<typeof ServedBesideSchema>;

/** Asks the server to carry an act out on a folder. */
export const ServedChangeSchema = z.object({
  ...{ root: z.string(), folder: z.string(), act: ActSchema },
  beside: ServedBesideSchema.optional(),
});
export type ServedChange = z.infer<typeof ServedChangeSchema>;

/** Asks the server about files of a folder and its store, before they are changed. */
export const ServedInspectionSchema = z.object({
  ...{ root: z.string(), folder: z.string(), inspection: InspectionSchema },
  beside: ServedBesideSchema.optional(),
});
export type ServedInspection = z.infer<typeof ServedInspectionSchema>;

/** A content that has come for a folder, whole. */
export const ServedArrivalSchema = z.object({ name: z.string().regex(/^[0-9a-f]{64}$/), key: KeySchema });

/** Where contents are to be had besides the game's folder, as two columns. */
export const ServedSourcesSchema = z
  .object({ keys: z.array(KeySchema), paths: z.array(z.string()) })
  .refine(({ keys, paths }) => keys.length === paths.length);

/** How a change goes, one value a line; the last one says how it ended. */
export const ServedProgressSchema = z.union([
  z.object({ files: z.number(), bytes: z.number() }),
  z.object({ done: z.literal(true) }),
  WireFailureSchema,
]);

/** How far a change set has come. */
export const ServedJournalSchema = z.object({
  set: ChangeSetSchema,
  way: z.enum(['on', 'back']).optional(),
  reached: z.number(),
  ready: z.number(),
  ended: z.boolean(),
  lettingGo: z.boolean(),
  begunAt: z.number().optional(),
  endedAt: z.number().optional(),
  leaves: LeavesSchema.optional(),
  texts: z.array(z.tuple([z.number(), z.string()])),
  entries: z.number(),
});

const CountSchema = z.number().int().nonnegative();

const RangeShape = { start: CountSchema, end: CountSchema };
const bytesOf = (ranges: readonly { start: number; end: number }[]): number =>
  ranges.reduce((sum, { start, end }) => sum + Math.max(0, end - start), 0);

/** A frame of a bundle; no more is taken into memory for it than one may be. */
const ServedFrameSchema = z
  .object({
    ...{ ...RangeShape, href: z.string(), size: CountSchema.max(MOST_UNPACKED), inWhole: z.boolean().optional() },
    prefix: z
      .array(
        z.union([
          z.strictObject({ ...RangeShape, path: z.string() }),
          z.strictObject({ ...RangeShape, href: z.string() }),
        ]),
      )
      .max(MOST_PARTS)
      .refine((parts) => parts.every(({ start, end }) => start <= end) && bytesOf(parts) <= MOST_PREFIX),
    parts: z.array(z.object({ ...RangeShape, file: CountSchema, at: CountSchema })).max(MOST_PARTS),
  })
  .refine(({ start, end }) => start < end && end - start <= MOST_PACKED);

/** Has the server fetch contents into the store of a folder. */
export const ServedFetchSchema = z
  .object({
    ...{ root: z.string(), folder: z.string() },
    files: z
      .array(
        z.object({
          name: z.string().regex(/^[0-9a-f]{64}$/),
          href: z.string(),
          mirrors: z.array(z.string()).max(20).readonly().optional(),
          inWhole: z.boolean().optional(),
          size: CountSchema,
          key: KeySchema,
          sources: z.array(
            z.object({ path: z.string(), start: CountSchema, beside: z.string().optional() }).nullable(),
          ),
        }),
      )
      .max(100_000),
    frames: z.array(ServedFrameSchema).max(100_000).optional(),
    beside: ServedBesideSchema.optional(),
    /** Of a sign-in at the service. */
    token: z.string().optional(),
    bytesPerSecond: z.number().positive().optional(),
  })
  .refine(({ files, frames = [] }) => frames.every(({ parts }) => parts.every(({ file }) => file < files.length)));
export type ServedFetch = z.infer<typeof ServedFetchSchema>;

const SoFarShape = {
  ...{ fetchedBytes: CountSchema, reusedBytes: CountSchema, wireBytes: CountSchema, requests: CountSchema },
};

/** How a fetch goes, one value a line; the last one says what came, or why it ended. */
export const ServedFetchNewsSchema = z.union([
  z.object({
    file: CountSchema,
    index: CountSchema,
    state: z.enum(['on-hand', 'reused', 'arriving', 'failing', 'checked']),
    bytes: CountSchema,
    soFar: z.object(SoFarShape),
  }),
  z.object({
    ...SoFarShape,
    wasBusy: z.boolean(),
    failed: z.array(z.object({ file: CountSchema, failure: WireFailureSchema })),
  }),
  WireFailureSchema,
]);

/** Which files have the read-only flag, asked for by their paths on the disk. */
export const ServedFlagsSchema = z.object({
  ...{ root: z.string(), folder: z.string(), paths: z.array(z.string()).max(500_000) },
  beside: ServedBesideSchema.optional(),
});
