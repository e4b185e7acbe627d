import type { Difference, LayDownRow, LayDownWay, Proof, RoomStep } from '#core/assemble';
import type { Bar, BuildChoice } from '#core/choose';
import type { BuildLabel, Depot, DepotIndex, ModId, OwnKind } from '#core/builds';
import type { ContentKey } from '#core/digest';
import type { WireFailure } from '#core/failure';
import type { Keepsake, KeepsakeList, OwnFile, PutBack } from '#core/keepsakes';
import type { Sharing } from '#core/profiles';
import type { FilesAndBytes } from '#core/depots';
import type { FetchItem, Owner } from '#core/fetch';
import type { CausedDrift, HoldSheet } from '#core/hold';
import type { Assessment, EvidenceLevel, FileChange, MendStep } from '#core/mend';
import type { Catalogue, InstalledMod, ProgramMisfit, Weight } from '#core/mods';
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
import type { BroughtReport, HoldRecord, Install, StoredProfile, StoredTrial, Target } from '~/store';

/** What every screen shows: the install, the build line, a figure for each stage. */
export interface FrameView {
  readonly install: Install;
  /** The title of the profile that counts. */
  readonly profile: string;
  /** Whether the game is that of this server's own service, which has a storefront and starts it. */
  readonly service: boolean;
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
  /** `nowhere`: files of depots that no source has, and the disk neither. */
  readonly toFetch: { readonly files: number; readonly bytes: number; readonly nowhere: number } | undefined;
  readonly laid: boolean;
  /** The game's program as it lies there: the builds that have it, none for an altered or unknown one; and mods that do not fit it. */
  readonly program:
    | {
        readonly path: string;
        readonly isThere: boolean;
        readonly builds: readonly BuildLabel[];
        readonly misfits: readonly ProgramMisfit[];
      }
    | undefined;
  /** The loader's own switch at the last survey; undefined where that is old, the rules know of none, or it could not be read. */
  readonly loaderSwitch: 'on' | 'off' | undefined;
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
  /** Versions that the game's files tell; `agrees` with the build that its bytes are of, where that can be told. */
  readonly versions: readonly { path: string; version: string; agrees: boolean | undefined }[];
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

/** How a folder becomes clean. */
export interface CleanPlan {
  readonly build: BuildLabel;
  /** What has to be fetched before. */
  readonly toFetch: readonly FetchItem[];
  readonly plan: Pick<PlanView, 'rows' | 'found'>;
}

/** Files of which a mod has one of several copies. */
export interface ReplacedView {
  /** Its copy stays: over whose. */
  readonly covers: readonly { readonly path: string; readonly owners: readonly Owner[] }[];
  /** Another's stays: whose. */
  readonly coveredBy: readonly { readonly path: string; readonly owners: readonly Owner[] }[];
}

/** What a change did, file by file, and what letting it go would cost. */
export interface ChangeDetails {
  /** Sorted by path, without the tree that they lie in. */
  readonly files: readonly {
    readonly path: string;
    readonly did: 'added' | 'replaced' | 'removed' | 'moved' | 'locked' | 'unlocked';
    /** Bytes. */
    readonly size: number | undefined;
  }[];
  /** Contents that would lie nowhere on the disk any more. */
  readonly again: { readonly files: number; readonly bytes: number };
}

/** What keeping a build whole would take now: contents to copy, and what is free. */
export interface KeepOffer {
  readonly build: BuildLabel;
  readonly files: number;
  readonly bytes: number;
  /** Bytes, where the drive tells. */
  readonly free: number | undefined;
}

/** What others have changed in a folder, in files, and the builds that it was at most likely. */
export interface OutsideChange {
  readonly replaced: number;
  readonly added: number;
  readonly removed: number;
  readonly from: BuildLabel | undefined;
  readonly to: BuildLabel | undefined;
  /** When it was noticed. */
  readonly at: number;
}

/** What it takes to keep a build whole. */
export interface KeepPlan {
  readonly game: string;
  readonly build: BuildLabel;
  /** Where each of its contents lies, on the install's disk. */
  readonly sources: ReadonlyMap<ContentKey, string>;
  /** Of those. */
  readonly bytes: number;
  /** Files of which the contents lie nowhere on the disk. */
  readonly missing: readonly FetchItem[];
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
  /** The build's depots that count here, in laying order. */
  readonly lines: readonly DepotLine[];
  /** The branches of which the build is the head, by which a storefront brings it. */
  readonly branches: readonly BranchView[];
  /** Bytes that fetching and laying down need at their peak, on top of what lies there, by the way that needs least. */
  readonly room: number;
  /** Files of the game that a storefront would have to write for it, each as a whole. */
  readonly byBranch: FilesAndBytes;
}

/** A branch, as far as builds say on which they came out. */
export interface BranchView {
  readonly name: string;
  readonly needsCode: boolean;
  /** When the build came out on it, as a date; undefined where nobody says that it did. */
  readonly since: string | undefined;
  /** Builds that it led to, this one among them. */
  readonly builds: number;
}

/** A file that is recorded as part of a build. */
export interface RecordedFile {
  readonly path: string;
  readonly size: number;
  readonly key: ContentKey;
  /** What the depot is called that it goes into. */
  readonly depot: string;
  /** Of the whole file; undefined where it has to be read for that. */
  readonly sha256: string | undefined;
}

/** What recording a folder as a build takes, and what it leaves out. */
export interface RecordPlan {
  readonly folders: readonly ({ readonly name: string } & FilesAndBytes)[];
  readonly left: readonly ({ readonly why: OwnKind | 'mods' } & FilesAndBytes)[];
}

/** A depot of the fetch list. */
export interface DepotLine {
  readonly depot: Depot;
  /** What the source calls its manifest, else its SHA-256. */
  readonly manifest: string;
  /** All of its files, and their bytes. */
  readonly files: number;
  readonly bytes: number;
  /** Its line, in the form that the game's rules give. */
  readonly line: string;
  /** Files of it that lie nowhere on disk. */
  readonly lacking: FilesAndBytes;
  /** Of those: what no source has. */
  readonly nowhere: FilesAndBytes;
}

/** A file in a folder that was pointed at, which the target wants. */
export interface BroughtFile {
  readonly key: ContentKey;
  readonly sha256: string;
  readonly size: number;
  /** In that folder. */
  readonly path: string;
}

/** What a folder has of a game's depots. */
export interface BroughtView {
  readonly report: BroughtReport;
  readonly take: readonly BroughtFile[];
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
    stored: number;
    missing: number;
  }[];
  readonly files: number;
  readonly bytes: number;
  readonly covered: number;
  readonly counts: { keep: number; elsewhere: number; stored: number; write: number; own: number; missing: number };
  /** `canCome`: the target has nothing at its path. */
  /** Files that are still to come, as far as they are few enough to be named. */
  readonly missing: readonly string[];
  readonly leftBehind: readonly { file: FoundFile; name: StrayName | undefined; canCome: boolean }[];
  /** Files that come along although no target has them. */
  readonly along: readonly { readonly path: string; readonly size: number }[];
  /** Files of which there are several copies: whose stays, and whose it covers, lowest first. */
  readonly overlaps: readonly { readonly path: string; readonly owner: Owner; readonly covers: readonly Owner[] }[];
  /** How it may be laid down, each with its room over time. */
  readonly ways: readonly { readonly way: LayDownWay; readonly steps: readonly RoomStep[]; readonly peak: number }[];
  /** What laying down in parts would not keep, since a source lists it. */
  readonly notKept: { readonly files: number; readonly bytes: number };
  /** The target lies on disk as it should. */
  readonly laid: boolean;
}

/** What the job that lays down needs. */
export interface PlanView {
  readonly build: BuildLabel;
  readonly rows: readonly LayDownRow[];
  readonly missing: readonly string[];
  /** Contents that mods cover, and where they lie on the disk: they are kept. */
  readonly covered: ReadonlyMap<ContentKey, string>;
  /** What lies in the folder now, by path. */
  readonly found: ReadonlyMap<string, ContentKey>;
  /** Of what differs that which can be made without keeping what it displaces. */
  readonly waivable: readonly Difference[];
  /** Where a source has the contents that these displace. */
  readonly fetchable: ReadonlyMap<ContentKey, string>;
}

export interface HoldView {
  readonly hold: HoldRecord | undefined;
  /** The sheet that would be written now; undefined where the folder is not what is wanted. */
  readonly draft: HoldSheet | undefined;
  readonly whyNoDraft: 'no-target' | 'not-surveyed' | 'departs' | 'not-as-sheet' | undefined;
  /** Without those that the person has taken over. */
  readonly departures: readonly SurveyRow[];
  /** Whether the player's settings are as they were held; undefined where the sheet does not say. */
  readonly settings: boolean | undefined;
  /** Who is likely to have changed what drifted. */
  readonly causes: readonly CausedDrift[];
  /** What it takes to have what is held again, where something drifted: the target, and bytes to fetch first. */
  readonly repair:
    { readonly target: Pick<Target, 'build' | 'releases' | 'order'>; readonly toFetch: number } | undefined;
  readonly trials: readonly StoredTrial[];
}

export interface MendView {
  readonly from: BuildLabel;
  readonly to: BuildLabel;
  readonly changes: readonly FileChange[];
  readonly steps: readonly MendStep[];
  readonly catalogue: Catalogue;
  readonly choice: BuildChoice;
  /** The order in which the mods of the choice are loaded. */
  readonly order: readonly ModId[];
  /** How weak the evidence may be. */
  readonly level: EvidenceLevel;
  /** What each mod touches of what the patch changes. */
  readonly touched: ReadonlyMap<ModId, readonly string[]>;
}

/** A place with files of the player's, as it is now. */
export interface OwnPlaceView {
  readonly name: string;
  readonly title: string;
  /** What lies there, where a person pointed at it outside the game's folder. */
  readonly kind: OwnKind | undefined;
  /** A cloud service synchronises it. */
  readonly synced: boolean;
  readonly files: number;
  readonly bytes: number;
  /** Why it cannot be looked at now. */
  readonly failure?: WireFailure;
}

/** The keepsakes of an install, newest first. */
export interface KeepsakesView extends KeepsakeList {
  readonly places: readonly OwnPlaceView[];
  /** Whether they lie with the folder; else on the browser's disk, and cannot be put back from here. */
  readonly inFolder: boolean;
  /** Keepsakes that profiles need to have their saves back, with the titles of these. */
  readonly needed: ReadonlyMap<string, string>;
}

/** A keepsake, and what putting it back would do. */
export interface KeepsakeView extends PutBack {
  readonly keepsake: Keepsake;
  readonly places: readonly OwnPlaceView[];
}

/** What switching to a profile does to the game's folder. */
export interface SwitchPlan {
  readonly build: BuildLabel;
  readonly rows: readonly LayDownRow[];
  /** What lies in the folder. */
  readonly found: ReadonlyMap<string, ContentKey>;
  readonly toFetch: readonly FetchItem[];
  /** Files of depots that no source has, and the disk neither. */
  readonly nowhere: number;
  /** What mods cover, and where it lies. */
  readonly covered: ReadonlyMap<ContentKey, string>;
  /** Files of now that are of no release and go with the profile that is left. */
  readonly along: readonly OwnFile[];
  /** The target of the profile that is left: where it has none, what lies in the folder. */
  readonly left: Target | undefined;
}

/** A profile of an install, to be shown. */
export interface ProfileView extends Pick<StoredProfile, 'id' | 'title' | 'target' | 'weights' | 'modFree'> {
  readonly sharing: Sharing;
  readonly startsEmpty: boolean;
  readonly counts: boolean;
}

/** What a switch to a profile would change. */
export interface SwitchView {
  readonly profile: string;
  readonly files: { readonly replaced: number; readonly added: number; readonly removed: number };
  readonly toFetch: FilesAndBytes;
  /** Files that cannot be had. */
  readonly nowhere: number;
  /** Saves, settings and own content. */
  readonly own: { readonly put: number; readonly taken: number };
  /** Mods with the release here and there; undefined where it has none. */
  readonly mods: readonly {
    readonly id: ModId;
    readonly name: string;
    readonly here: string | undefined;
    readonly there: string | undefined;
  }[];
  /** Whether the folder has what the profile that counts wants. */
  readonly laid: boolean;
}

/** What a folder has of what it should have, when that was read, and how it came there. */
export interface ProofView {
  readonly proof: Proof;
  readonly build: BuildLabel;
  /** When the reading began. */
  readonly at: number;
  readonly fresh: boolean;
  /** Files that were not read again then, since size and time were the same. */
  readonly trusted: number;
  /** Titles of depots. */
  readonly depots: ReadonlyMap<string, string>;
  /** When the build was laid down, and how long that took, where it was done here. */
  readonly laid?: { readonly at: number; readonly seconds: number | undefined };
}
