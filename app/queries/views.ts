import type { LayDownRow, LayDownWay, RoomStep } from '#core/assemble';
import type { Bar, BuildChoice } from '#core/choose';
import type { BuildLabel, Depot, DepotIndex, ModId, OwnKind } from '#core/builds';
import type { ContentKey } from '#core/digest';
import type { WireFailure } from '#core/failure';
import type { FetchItem } from '#core/fetch';
import type { HoldSheet } from '#core/hold';
import type { Assessment, EvidenceLevel, FileChange, MendStep } from '#core/mend';
import type { Catalogue, InstalledMod, Weight } from '#core/mods';
import type {
  Cleaning,
  DepotIdentity,
  FoundFile,
  LearnedFrom,
  MixedCase,
  StrayName,
  SurveyRow,
  SurveyTable,
} from '#core/survey';
import type { HoldRecord, Install, StoredTrial } from '~/store';

/** What every screen shows: the install, the build line, a figure for each stage. */
export interface FrameView {
  readonly install: Install;
  readonly index: DepotIndex;
  readonly mods: number;
  /** Mods that lie in the folder. */
  readonly modsHere: number;
  readonly builds: readonly {
    label: BuildLabel;
    date: string;
    branches: readonly string[];
    running: number | undefined;
  }[];
  /** Builds that the depots on disk are at; several where they disagree. Empty before the first survey. */
  readonly onDisk: readonly BuildLabel[];
  readonly likeliest: BuildLabel | undefined;
  /** Builds that a branch, the folder, the target, the hold or a release of the person's mods speaks of. */
  readonly spokenOf: ReadonlySet<BuildLabel>;
  /** The label of a person's own record, where the folder is more that than any known build. */
  readonly learnedAs: string | undefined;
  readonly survey: { readonly at: number; readonly fresh: boolean; readonly departures: number } | undefined;
  /** When the quick look began, if there was one. */
  readonly lookedAt: number | undefined;
  readonly folderBytes: number | undefined;
  readonly toFetch: { readonly files: number; readonly bytes: number } | undefined;
  readonly laid: boolean;
  /** `loose`: means of the hold that did not stand at the last check. */
  readonly held:
    | {
        readonly build: BuildLabel;
        readonly drift: number | undefined;
        readonly loose: readonly ('setting' | 'lock')[];
      }
    | undefined;
  /** Mods that do not run at the newest build of the branch that the folder follows. */
  readonly lostNow: number | undefined;
}

export interface SurveyView {
  readonly table: SurveyTable;
  readonly depots: readonly (DepotIdentity & {
    title: string;
    order: number;
    /** Of its files at the likeliest build: their bytes, and what lies on disk at their paths. */
    bytes: { expected: number; found: number };
  })[];
  readonly mixed: readonly MixedCase[];
  readonly cleaning: Cleaning;
  readonly likeliest: BuildLabel | undefined;
  /** The person's record that the folder is held against, where it fits better than any known build. */
  readonly learned: { label: string; from: LearnedFrom; at: number; found: number; total: number } | undefined;
  readonly own: readonly { kind: OwnKind; size: number }[];
  readonly installed: readonly InstalledMod[];
  readonly catalogue: Catalogue;
  readonly at: number;
  readonly fresh: boolean;
  readonly trusted: number;
  readonly unreadable: readonly { path: string; failure: WireFailure }[];
}

export interface FileView {
  readonly name: StrayName | undefined;
  /** Builds that have these bytes at this path. */
  readonly builds: readonly BuildLabel[];
  /** SHA-256, where it is known. */
  readonly found: string | undefined;
  readonly expected: string | undefined;
  readonly expectedSize: number | undefined;
}

/** Columns, sorted by path. */
export interface DifferenceView {
  readonly paths: readonly string[];
  readonly changes: readonly FileChange['change'][];
  readonly to: readonly (string | undefined)[];
  /** Bytes now; those of before where the file is gone. */
  readonly sizes: Float64Array;
}

/** What a checksum is the checksum of. */
export type KnownDigest =
  | { readonly kind: 'build'; readonly path: string; readonly builds: readonly BuildLabel[] }
  | {
      readonly kind: 'mod';
      readonly mod: ModId;
      readonly name: string;
      readonly release: string;
      readonly path: string;
    }
  | { readonly kind: 'learned'; readonly label: string; readonly from: LearnedFrom; readonly path: string };

export interface ChooseView {
  readonly catalogue: Catalogue;
  /** One for each build, from old to new. */
  readonly choices: readonly BuildChoice[];
  readonly recommended: BuildLabel | undefined;
  readonly runnerUp: BuildLabel | undefined;
  readonly installed: readonly InstalledMod[];
  /** Bytes that would have to come for each build; undefined before the first survey. */
  readonly toFetch: ReadonlyMap<BuildLabel, number>;
  /** When this was worked out, for whoever waits for a change of it. */
  readonly at: number;
  /** How weak the evidence may be. */
  readonly level: EvidenceLevel;
  /** For each of the person's mods the builds that its releases count for. */
  readonly bars: ReadonlyMap<ModId, readonly Bar[]>;
  readonly onDisk: BuildLabel | undefined;
  /** Mods that the person brought in. */
  readonly ownMods: ReadonlySet<ModId>;
  /** Files among the mods that belong to no known one. */
  readonly unknownFiles: readonly FoundFile[];
  readonly weights: ReadonlyMap<ModId, Weight>;
  /** The saves of which it is known when they were last written (else NaN), or by which build. */
  readonly saves: readonly { readonly modified: number; readonly build: BuildLabel | undefined }[];
}

/** The releases of a mod at a build, newest first. */
export type EvidenceView = readonly (Assessment & { release: string; note: string | undefined })[];

/** What a patch from one build to the other does to the files. */
export interface TwoBuildsView {
  readonly changed: number;
  readonly fresh: number;
  readonly gone: number;
  readonly moved: number;
  /** Of files that are changed or new at the second build. */
  readonly bytes: number;
}

export interface FetchView {
  readonly build: BuildLabel;
  readonly items: readonly FetchItem[];
  readonly depots: readonly Depot[];
  readonly notCounting: readonly Depot[];
  /** Releases of the target of which no files can be had. */
  readonly withoutFiles: readonly { name: string; release: string; why: 'no-files' | 'withdrawn' | 'gone' }[];
  /** Names of the target's branches that need a code, where no open branch leads to its build. */
  readonly needsCode: readonly string[];
}

export interface Layer {
  readonly depot: Depot;
  readonly counts: boolean;
  readonly bytes: number;
  readonly folders: ReadonlyMap<string, { stays: number; covered: number }>;
}

export interface AssembleView {
  readonly build: BuildLabel;
  readonly layers: readonly Layer[];
  /** Top folders with the bytes that they will hold, in the order of their first depot. */
  readonly folders: readonly {
    name: string;
    bytes: number;
    kept: number;
    moved: number;
    fetched: number;
    missing: number;
  }[];
  readonly files: number;
  readonly bytes: number;
  readonly covered: number;
  readonly counts: { keep: number; elsewhere: number; fetched: number; write: number; own: number; missing: number };
  readonly leftBehind: readonly { file: FoundFile; name: StrayName | undefined }[];
  /** How it may be laid down, each with its room over time. */
  readonly ways: readonly { readonly way: LayDownWay; readonly steps: readonly RoomStep[]; readonly peak: number }[];
  /** The target lies on disk as it should. */
  readonly laid: boolean;
}

/** What the job that lays down needs. */
export interface PlanView {
  readonly build: BuildLabel;
  readonly rows: readonly LayDownRow[];
  readonly missing: readonly string[];
  readonly sha256: ReadonlyMap<string, string>;
  /** What lies in the folder now, by path. */
  readonly found: ReadonlyMap<string, ContentKey>;
}

export interface HoldView {
  readonly hold: HoldRecord | undefined;
  /** The sheet that would be written now; undefined where the folder is not what is wanted. */
  readonly draft: HoldSheet | undefined;
  readonly whyNoDraft: 'no-target' | 'not-surveyed' | 'departs' | 'not-as-sheet' | undefined;
  readonly departures: readonly SurveyRow[];
  readonly trials: readonly StoredTrial[];
}

export interface MendView {
  readonly from: BuildLabel;
  readonly to: BuildLabel;
  readonly changes: readonly FileChange[];
  readonly steps: readonly MendStep[];
  readonly catalogue: Catalogue;
  readonly choice: BuildChoice;
  /** How weak the evidence may be. */
  readonly level: EvidenceLevel;
  /** What each mod touches of what the patch changes. */
  readonly touched: ReadonlyMap<ModId, readonly string[]>;
}
