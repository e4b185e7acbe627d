import { z } from 'zod';
import { ChangeSetIdSchema, ChangeSetSchema } from '#core/changes';
import { isPieceSize } from '#core/digest';
import { FAILURE_CODES } from '#core/failure';

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
  /** Where the store lies, as the system writes it. */
  store: z.string(),
});

/** Asks the server to run a change set that is written down there already, or here. */
export const ServedChangeSchema = z
  .object({
    root: z.string(),
    folder: z.string(),
    set: ChangeSetIdSchema,
    act: z.enum(['on', 'back', 'let-go']),
    plan: ChangeSetSchema.optional(),
  })
  .refine(({ set, plan }) => !plan || plan.id === set, { path: ['plan', 'id'] });
export type ServedChange = z.infer<typeof ServedChangeSchema>;

/** How a change goes, one value a line; the last one says how it ended. */
export const ServedProgressSchema = z.union([
  z.object({ files: z.number(), bytes: z.number() }),
  z.object({ done: z.literal(true) }),
  z.object({
    code: z.enum(FAILURE_CODES),
    facts: z.record(z.string(), z.union([z.string(), z.number(), z.boolean()])),
  }),
]);

/** How far a change set has come; with no steps but exchanges where many are told of. */
export const ServedJournalSchema = z.object({
  set: ChangeSetSchema,
  way: z.enum(['on', 'back']).optional(),
  reached: z.number(),
  ready: z.number(),
  ended: z.boolean(),
  lettingGo: z.boolean(),
  entries: z.number(),
});
