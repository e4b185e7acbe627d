import { z } from 'zod';
import { type BuildLabel, BuildLabelSchema, type ModId, ModIdSchema, type Ownership } from '#core/builds';
import type { WireFailure } from '#core/failure';
import type { HoldSheet } from '#core/hold';
import { DecisionSchema } from '#core/choose';
import type { Mod, Weight } from '#core/mods';
import type { EvidenceLevel } from '#core/mend';
import type { GameAnswer } from '#core/outside';
import type { QuickIdentity, Reading } from '#core/survey';

/** Where an install's folder lies. */
export type InstallPlace =
  | { readonly kind: 'browser-disk' }
  /** A folder that was picked; it is remembered, and the browser may want to be asked again. */
  | { readonly kind: 'picked'; readonly handle: FileSystemDirectoryHandle }
  /** Files that were handed over to one page. */
  | { readonly kind: 'handed' }
  /** Below a root that the server was started with. */
  | { readonly kind: 'served'; readonly root: string; readonly folder: string }
  /** No folder, but a checksum list of one. */
  | { readonly kind: 'list'; readonly file: string };

/** A folder of the game, what belongs in it, and what is wanted of it. */
export interface Install {
  readonly id: string;
  readonly title: string;
  /** The folder as a person knows it. */
  readonly folder: string;
  readonly place: InstallPlace;
  /** The tree that is the game's folder now: a folder below `trees/` of the install's disk. */
  readonly tree: string;
  /** The tree that was swapped out last, by which change set, and is kept until the person lets it go. */
  readonly aside?: {
    readonly tree: string;
    readonly build: BuildLabel | undefined;
    readonly bytes: number;
    readonly set: string;
  };
  readonly ownership: Ownership;
  readonly weights: readonly (readonly [ModId, Weight])[];
  /** Mods that are to run at just this release, or not at all. */
  readonly pins?: readonly (readonly [ModId, string])[];
  /** How weak the evidence may be that a release runs at a build; that its author says so, where it is left out. */
  readonly evidence?: EvidenceLevel;
  /** Builds from old to new, where the service's order was put right by hand. */
  readonly buildOrder?: readonly BuildLabel[];
  readonly target?: Target;
  /** When something last changed the tree, in milliseconds since 1970; a survey from before does not count. */
  readonly changedAt: number;
  readonly arrived: boolean;
  /** Times of files that were put down with an older time than the disk can give them: those written until `at`. */
  readonly toldTimes?: { readonly at: number; readonly times: readonly (readonly [path: string, modified: number])[] };
  /** When a person looked at it last, and which builds there were. */
  readonly lastVisit?: { readonly at: number; readonly builds: readonly BuildLabel[] };
  /** The visit that the person came back from after a while, until they have seen where things stand. */
  readonly backFrom?: Install['lastVisit'];
  /** Bytes free on the folder's drive, as the person said, where the folder does not tell. */
  readonly freeBytes?: number;
}

/** A mod that a person brought in. It is laid over the catalogue's one of the same id. */
export interface OwnMod extends Mod {
  /** What it was read from: a file's name, or the form. */
  readonly from: string;
  readonly at: number;
}

/** The decision that Fetch and Assemble carry out. */
export const TargetSchema = z
  .object({
    build: BuildLabelSchema,
    releases: z.array(z.tuple([ModIdSchema, z.string()]).readonly()).readonly(),
    decidedBy: z.enum(['choice', 'hold-sheet', 'mend']),
    /** The tree digest that the sheet claims, where a sheet decided: what is laid down has to have it. */
    sheetDigest: z.string().exactOptional(),
    /** The reasons, where it was chosen here or the sheet has them. */
    decision: DecisionSchema.exactOptional(),
    at: z.number(),
  })
  .readonly();
export type Target = z.infer<typeof TargetSchema>;

/** Every file of a tree with the key of its contents. A change after `at` makes it old. */
export interface StoredSurvey extends Reading {
  readonly install: string;
  readonly tree: string;
  /** Files whose digest was taken over from an earlier reading, since size and time were the same. */
  readonly trusted: number;
  readonly unreadable: readonly { readonly path: string; readonly failure: WireFailure }[];
  /** The builds that saves say they were written by. */
  readonly saveBuilds?: readonly (readonly [path: string, build: BuildLabel])[];
}

/** What names, sizes and the bytes of a few sampled files said of a tree. */
export interface StoredLook {
  readonly install: string;
  readonly tree: string;
  /** When it began. */
  readonly at: number;
  readonly files: number;
  readonly bytes: number;
  /** The sampled files that were read, and their bytes. */
  readonly read: readonly { readonly path: string; readonly size: number }[];
  readonly depots: readonly QuickIdentity[];
}

export type JobKind =
  | 'seed'
  | 'look'
  | 'survey'
  | 'keepsake'
  | 'fetch'
  | 'assemble'
  | 'hold'
  | 'release'
  | 'take-back'
  | 'let-go'
  | 'storefront-update'
  | 'start';
export type JobState = 'waiting' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled';

export interface JobProgress {
  readonly phase: string;
  readonly files: number;
  readonly filesTotal: number;
  readonly bytes: number;
  readonly bytesTotal: number;
}

export interface JobRecord {
  readonly id: string;
  readonly install: string;
  readonly kind: JobKind;
  readonly params: unknown;
  readonly state: JobState;
  /** Its person wants it undone: whoever drives it does that. */
  readonly cancelling?: true;
  readonly progress: JobProgress;
  readonly failure?: WireFailure;
  readonly startedAt: number;
  readonly endedAt?: number;
}

export interface HoldCheck {
  readonly at: number;
  readonly drift: number;
  /** Whether the storefront's record is set to update only when asked; left out where there is none to read. */
  readonly setting?: boolean;
  readonly lock?: boolean;
}

export interface HoldRecord {
  readonly install: string;
  readonly sheet: HoldSheet;
  readonly checks: readonly HoldCheck[];
}

export interface StoredTrial {
  readonly install: string;
  readonly at: number;
  readonly answer: GameAnswer;
}
