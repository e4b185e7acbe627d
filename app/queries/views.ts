import type { Difference, LayDownRow, LayDownWay, Proof, RoomStep } from '#core/assemble';
import type { Bar, BuildChoice } from '#core/choose';
import type { BuildLabel, Depot, DepotIndex, ModId, OwnKind } from '#core/builds';
import type { HistoryEntry, NamedFile } from '#core/changes';
import type { ContentKey } from '#core/digest';
import type { WireFailure } from '#core/failure';
import type { Keepsake, OwnFile, PutBack, WithCopies } from '#core/keepsakes';
import type { Sharing } from '#core/profiles';
import type { FilesAndBytes } from '#core/depots';
import type { FetchItem, Owner, PlannedFrame } from '#core/fetch';
import type { Sign } from '#core/narrow';
import type { Decided, DecisionRule, RecordLayout } from '#core/merge';
import type { CausedDrift, HoldSheet } from '#core/hold';
import type { Assessment, Benched, EvidenceLevel, FileChange, ToldMove, WorkItem } from '#core/mend';
import type { Catalogue, Contest, InstalledMod, LoadOrder, ProgramMisfit, StatedRule, Weight } from '#core/mods';
import type { StoreLies } from '~/places';
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
import type {
  BroughtReport,
  HoldRecord,
  Install,
  Narrowing,
  Nearest,
  StoredProfile,
  StoredTrial,
  Target,
} from '~/store';

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
  /** `bytes` on the wire; `nowhere`: files of depots that no source has, and the disk neither. */
  readonly toFetch: { readonly files: number; readonly bytes: number; readonly nowhere: number } | undefined;
  readonly laid: boolean;
  /** Changes of the folder that are between two states; of one that a newer program has begun nothing else is known. */
  readonly unfinished: readonly { readonly id: string; readonly entry: HistoryEntry | undefined }[];
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
        /** Whether all that is held is known here: else the folder cannot be held against it. */
        readonly isKnown: boolean;
        readonly loose: readonly ('setting' | 'lock')[];
      }
    | undefined;
  /** Mods that do not run at the newest build of the branch that the folder follows. */
  readonly lostNow: number | undefined;
  /** Names of the mods that are due back from the bench. */
  readonly due: readonly string[];
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

/** Where files of an archive come to lie, and over whose. */
export interface DraftPlaces {
  readonly places: readonly (readonly [path: string, place: string])[];
  /** Places that several of them would have. */
  readonly clashes: readonly string[];
  /** Files of the game that they go over. */
  readonly game: readonly string[];
  /** Names of mods in the folder that have files there. */
  readonly mods: readonly string[];
}

/** A folder of a mod that another program keeps up to date, beside what was decided about it. */
export interface FollowedFolder {
  /** Below the folder that is followed; empty where that is the mod's own. */
  readonly folder: string;
  /** A digest of names, sizes and times; empty where the folder is gone. */
  readonly state: string;
  readonly files: number;
  readonly bytes: number;
  /**
   * `new`: nobody has decided about it. `changed`: since what was decided. `frozen`: changed as well, but the mod is to stay at what was
   * taken. `passed`: it is not wanted as it is now. `gone`: it is there no more.
   */
  readonly does: 'new' | 'changed' | 'same' | 'frozen' | 'passed' | 'gone';
  /** What has been taken from it. */
  readonly releases: readonly { readonly mod: ModId; readonly name: string; readonly version: string }[];
}

export interface FollowedView {
  readonly name: string;
  readonly title: string;
  /** Each folder in it is a mod. */
  readonly each: boolean;
  readonly folders: readonly FollowedFolder[];
  /** Why it cannot be looked at now. */
  readonly failure: WireFailure | undefined;
}

export interface ShelfView {
  /** Names of all mods that are known. */
  readonly mods: readonly string[];
  readonly releases: readonly {
    readonly reference: string;
    readonly mod: ModId;
    readonly name: string;
    readonly version: string;
    /** When it was put there, in milliseconds since 1970. */
    readonly at: number;
    readonly files: number;
    readonly bytes: number;
    /** Contents that are not there any more. */
    readonly missing: number;
    /** Where its files were taken from; undefined where that was before it was written down. */
    readonly from: string | undefined;
    /** Where it is from, where its author has not put it out. */
    readonly unofficial: string | undefined;
    /** A catalogue has it still, with its files. */
    readonly isOffered: boolean;
    /** The folder is to have just this one, whatever comes out. */
    readonly isFrozen: boolean;
    /** It is on the bench of this folder. */
    readonly isBenched: boolean;
    /** What the person has to say of it. */
    readonly words: string;
    readonly note: string | undefined;
    /** Builds on which it ran here, and on which it did not. */
    readonly ran: readonly BuildLabel[];
    readonly failed: readonly BuildLabel[];
    readonly inFolder: boolean;
    /** A target has it: of this folder, of a profile, or of another folder of the game. */
    readonly isWanted: boolean;
    readonly paths: readonly string[];
  }[];
  /** Whether the folder has a store to keep releases in. */
  readonly canKeep: boolean;
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
}

/** What a change keeps that lies nowhere else on the drive. */
export interface KeptOfChange {
  /** What a source tells of, with an address each: whether it still has it is known once it was asked. */
  readonly again: readonly (readonly [key: ContentKey, href: string])[];
  /** What nobody else is known to have: `path` in the game's folder, `at` on the disk; `key` where it was read. */
  readonly alone: readonly {
    readonly path: string;
    readonly at: string;
    readonly key: ContentKey | undefined;
    readonly kind: OwnKind;
    readonly size: number;
    readonly modified: number | null;
  }[];
  /** Files of a folder that is put aside which are named before they go. */
  readonly named: readonly NamedFile[];
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
  /** Bytes that keeping it adds to the drive: what the store has already is shared. */
  readonly added: number;
  /** Bytes free there, as far as it can be asked. */
  readonly free: number | undefined;
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
  /** Frames of bundles that bring some of it. */
  readonly frames: readonly PlannedFrame[];
  /** Whether a source may have more of it compressed, of which nothing is known yet. */
  readonly asksSources: boolean;
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
  /** Bytes free where fetching writes, as far as it can be asked. */
  readonly free: number | undefined;
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
  /** Nothing has changed the folder since it was read, and no change of it is unfinished. */
  readonly fresh: boolean;
}

/** What the job that lays down needs. */
export interface PlanView {
  readonly build: BuildLabel;
  readonly rows: readonly LayDownRow[];
  readonly missing: readonly string[];
  /** What becomes of the mods in the folder. */
  readonly moves: readonly ToldMove[];
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
  /** Without those that the person has taken over; none where something held is not known. */
  readonly departures: readonly SurveyRow[];
  /** What of the sheet is not known here, so that the folder cannot be held against it: the build, or names of releases. */
  readonly unknown: readonly string[];
  /** Whether the player's settings are as they were held; undefined where the sheet does not say. */
  readonly settings: boolean | undefined;
  /** Who is likely to have changed what drifted. */
  readonly causes: readonly CausedDrift[];
  /** What it takes to have what is held again, where something drifted: the target, and bytes to fetch first. */
  readonly repair:
    | { readonly target: Pick<Target, 'build' | 'releases' | 'order' | 'manifests'>; readonly toFetch: number }
    | undefined;
  readonly trials: readonly StoredTrial[];
}

/** What a hold sheet can be handed on with. */
export interface SheetParts {
  readonly builds: {
    readonly index: DepotIndex;
    readonly texts: readonly (readonly [path: string, text: string])[];
    /** Depots whose manifests are not to be had just as they are. */
    readonly without: readonly string[];
  };
  readonly mods: {
    readonly catalogue: Catalogue;
    /** What each file is called in an archive, where it lies on the disk, and its bytes. */
    readonly files: readonly (readonly [as: string, path: string, size: number])[];
    /** Releases that do not lie on the disk whole. */
    readonly without: readonly string[];
  };
}

/** Another folder of the game that has what is held, or most of it. */
export interface CopyElsewhere {
  readonly id: string;
  readonly title: string;
  /** When it was surveyed. */
  readonly at: number;
  /** Files that it has, of how many. */
  readonly right: number;
  readonly of: number;
}

export interface MendView {
  /** When it was worked out. */
  readonly at: number;
  readonly from: BuildLabel;
  readonly to: BuildLabel;
  readonly changes: readonly FileChange[];
  /** The build that the folder is at; undefined where its depots disagree too much to tell. */
  readonly onDisk: BuildLabel | undefined;
  /** One a mod, in the order in which they can be taken. */
  readonly items: readonly WorkItem[];
  readonly catalogue: Catalogue;
  readonly choice: BuildChoice;
  /** Releases in the folder. */
  readonly here: ReadonlyMap<ModId, string>;
  /** What the whole set comes to: the choice, and releases that stay as they are. */
  readonly releases: ReadonlyMap<ModId, string>;
  /** Mods of the folder without a release that counts, but with one that may run all the same. */
  readonly undecided: ReadonlySet<ModId>;
  /** Mods that are out for a while, and whether what they wait for has come. */
  readonly bench: readonly (Benched & { readonly isDue: boolean })[];
  readonly weights: ReadonlyMap<ModId, Weight>;
  /** The order in which the mods of the choice are loaded. */
  readonly order: readonly ModId[];
  /** How weak the evidence may be. */
  readonly level: EvidenceLevel;
  /** What each mod touches of what the patch changes. */
  readonly touched: ReadonlyMap<ModId, readonly string[]>;
}

/** The order in which mods are loaded. */
export interface OrderView extends LoadOrder {
  /** When working it out began. */
  readonly at: number;
  readonly onDisk: BuildLabel | undefined;
  readonly catalogue: Catalogue;
  readonly releases: ReadonlyMap<ModId, string>;
  /** They lie in the folder; else they are the target's. */
  readonly isInFolder: boolean;
  /** Rules that bear on them; what counts more first. */
  readonly rules: readonly StatedRule[];
  readonly contests: readonly Contest[];
  /** The game's list; undefined where the rules know of none. */
  readonly listPath: string | undefined;
  /** Entries of the list that are no known mods: they stay where they are. */
  readonly strangers: readonly string[];
  /** The list has nothing on, and once had. */
  readonly wasEmptied: boolean;
  /** The list says just this; so does one that no rule knows of. */
  readonly isListed: boolean;
  /** Files of the folder that several mods have, and that are the copy of another one than by this order. */
  readonly toLay: readonly string[];
}

/** Files of a mod in the folder that lie where they do not belong. */
export interface MisplacedView {
  /** Undefined where nobody knows the mod. */
  readonly mod: ModId | undefined;
  /** Its name, or that of the folder that it belongs in. */
  readonly name: string;
  readonly moves: readonly (readonly [from: string, to: string])[];
}

/** A release that is to be put on the shelf, from where the folder has its contents. */
export interface ShelvedFrom {
  readonly mod: ModId;
  readonly release: string;
  readonly keys: readonly ContentKey[];
  readonly from: readonly (readonly [ContentKey, string])[];
}

/** A lay-down that changed mods, as the history has it. */
export interface MendedView {
  readonly id: string;
  readonly at: number;
  readonly build: BuildLabel | undefined;
  /** The build before, where it was another one. */
  readonly from: string | undefined;
  readonly moves: readonly ToldMove[];
  readonly isTakenBack: boolean;
  /** It can be taken back by itself, to the byte: no later change is in its way, and all that it kept is there. */
  readonly canGoBack: boolean;
}

export interface StepTarget {
  readonly target: Target;
  /** Mods that come into the folder by it. */
  readonly returns: readonly ModId[];
  /** Where files change by it; undefined where the game itself goes to another build. */
  readonly paths?: readonly string[];
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
export interface KeepsakesView extends WithCopies {
  readonly places: readonly OwnPlaceView[];
  /** Whether they lie with the folder; else on the browser's disk, and cannot be put back from here. */
  readonly inFolder: boolean;
  readonly lies: StoreLies;
  /** Keepsakes that profiles need to have their saves back, with the titles of these. */
  readonly needed: ReadonlyMap<string, string>;
}

/** What is still to be copied to this browser. */
export interface CopyView {
  readonly keepsakes: number;
  readonly bytes: number;
}

/** A keepsake, and what putting it back would do. */
export interface KeepsakeView extends PutBack {
  readonly keepsake: Keepsake;
  readonly places: readonly OwnPlaceView[];
  /** The mods that settings are of, as far as it is known: their names, by the names of the files. */
  readonly modOf: ReadonlyMap<string, string>;
}

/** What deleting the files of a folder would lose. */
export interface LossesView {
  /** What lies there, by path. */
  readonly found: ReadonlyMap<string, ContentKey>;
  /** Nothing has changed the folder since it was surveyed. */
  readonly fresh: boolean;
  /** What a source or a catalogue has, and what is the player's by the game's rules. */
  readonly again: FilesAndBytes;
  readonly own: FilesAndBytes;
  /** What nobody else is known to have. */
  readonly lost: readonly OwnFile[];
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

/** A content, and where it lies on the install's disk; nowhere yet, where that is left out. */
export interface Whence {
  readonly size: number;
  readonly key: ContentKey;
  readonly at?: string;
}

/** A file of a release that is carried to another build. */
export interface CarryFile {
  readonly path: string;
  /** The file of the game that it is made from. */
  readonly vanilla: string | undefined;
  /** `own`: it is made from none. `gone`: the build has that file no longer. `unchanged`: it is the same there. */
  readonly state: 'changed' | 'unchanged' | 'gone' | 'own';
  readonly ours: Whence;
  readonly base?: Whence;
  readonly theirs?: Whence;
  readonly layout?: RecordLayout;
  /** Of a table, the columns that a person has named as those that tell its rows apart. */
  readonly key?: readonly string[];
}

/** The game's files that a release may be made from, by build. */
export interface CarryBases {
  readonly bases: readonly {
    readonly build: BuildLabel;
    readonly files: readonly Required<Pick<CarryFile, 'path' | 'ours' | 'base'>>[];
  }[];
  /** What lies nowhere yet. */
  readonly missing: readonly FetchItem[];
}

/** What it takes to carry a release of a mod from the build that it was made for to another one. */
export interface CarryView {
  readonly mod: ModId;
  readonly name: string;
  readonly release: string;
  /** All of the mod, the newest first. */
  readonly releases: readonly string[];
  readonly from: BuildLabel;
  readonly to: BuildLabel;
  /** Builds that it may be made for, the newest first; `isNamed` where its author says so. */
  readonly builds: readonly BuildLabel[];
  readonly isNamed: boolean;
  /** Where nobody says it, and it was looked for: how near the release's files are to those of each build. */
  readonly nearest: Nearest | undefined;
  /** It may be made for several builds, nobody says which, and it was not looked for. */
  readonly asksForBuild: boolean;
  readonly files: readonly CarryFile[];
  /** What lies nowhere yet. */
  readonly missing: readonly FetchItem[];
  /** What the outcome is called. */
  readonly version: string;
  /** Releases that were carried to that build before. */
  readonly carried: readonly string[];
  readonly decided: readonly Decided[];
  readonly rules: readonly DecisionRule[];
  /** Whether files can be fetched and kept for this folder. */
  readonly canKeep: boolean;
}

/** What is suspected to break the game, and the start that tells most about it. */
export interface NarrowView {
  readonly build: BuildLabel;
  readonly isNewest: boolean;
  /** What is under way; undefined as long as nothing is narrowed down. */
  readonly under: Narrowing | undefined;
  /** In the order in which they are loaded. */
  readonly mods: readonly {
    readonly mod: ModId;
    readonly name: string;
    readonly release: string;
    readonly signs: readonly Sign[];
    readonly weight: number;
    /** It is on in every start: it is what does not load, or what that needs. */
    readonly isAlways: boolean;
    /** It lies in the folder now. */
    readonly isHere: boolean;
    /** How likely it has to do with the failure. */
    readonly involved: number;
  }[];
  /** What all known mods are called. */
  readonly names: ReadonlyMap<string, string>;
  /** From the likeliest: one mod, two together, or none. */
  readonly culprits: readonly { readonly mods: readonly ModId[]; readonly likely: number }[];
  readonly next: { readonly on: readonly ModId[]; readonly fails: number; readonly bits: number } | undefined;
  readonly left: { readonly likely: number; readonly most: number };
  /** The last start that went well, and what has changed since. */
  readonly since:
    | {
        readonly at: number;
        readonly version: BuildLabel | undefined;
        readonly added: number;
        readonly updated: number;
        readonly gone: number;
      }
    | undefined;
  /** The last start of all. */
  readonly last:
    | {
        readonly at: number;
        readonly outcome: 'title' | 'crash';
        readonly loaded: readonly ModId[];
        readonly knowsMods: boolean;
      }
    | undefined;
}
