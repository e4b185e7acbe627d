import { z } from 'zod';
import { BuildLabelSchema, DepotIdSchema, GameSchema, ModIdSchema, OWN_KINDS, OwnershipSchema } from '#core/builds';
import { DecisionSchema } from '#core/choose';
import type { ContentKey } from '#core/digest';
import { type Facts, FAILURE_CODES, type WireFailure } from '#core/failure';
import { HoldSheetSchema } from '#core/hold';
import { BenchedSchema, EVIDENCE_LEVELS, SaidSchema } from '#core/mend';
import { ModSchema, OrderRuleSchema, WeightSchema } from '#core/mods';
import { GameAnswerSchema } from '#core/outside';
import { SharingSchema } from '#core/profiles';
import type { QuickIdentity } from '#core/survey';

/* What the store keeps. Each record passes its schema when it is read: an older version may have written it. */

const pairs = <A extends z.ZodType, B extends z.ZodType>(a: A, b: B) => z.array(z.tuple([a, b]).readonly()).readonly();

/** Columns have a hundred thousand entries, and are told to be such without looking at each. */
const texts = <Text extends string = string>() => z.custom<readonly Text[]>(Array.isArray, 'is not a list');
const numbers = z.custom<Float64Array>((value) => value instanceof Float64Array, 'is not a column of numbers');

/** A folder that was picked; a browser keeps it, and asks before it is used again. */
export const HandleSchema = z.custom<FileSystemDirectoryHandle>((value) => typeof value === 'object' && value !== null);

/** Where an install's folder lies. */
const InstallPlaceSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('browser-disk') }).readonly(),
  /** A folder that was picked; it is remembered, and the browser may want to be asked again. */
  z
    .object({
      kind: z.literal('picked'),
      handle: HandleSchema,
      /** Another folder that was picked, on another drive perhaps, for what changes keep; in the game's, where left out. */
      store: HandleSchema.exactOptional(),
    })
    .readonly(),
  /** Files that were handed over to one page. */
  z.object({ kind: z.literal('handed') }).readonly(),
  /** Below a root that the server was started with. */
  z.object({ kind: z.literal('served'), root: z.string(), folder: z.string() }).readonly(),
  /** No folder, but a checksum list of one. */
  z.object({ kind: z.literal('list'), file: z.string() }).readonly(),
]);
export type InstallPlace = z.infer<typeof InstallPlaceSchema>;

/** Where the storefront's record of an install lies, where that is not in the game's folder as the game's rules say. */
const RecordPlaceSchema = z.discriminatedUnion('kind', [
  /** On the install's own disk, beside its trees. */
  z.object({ kind: z.literal('disk'), path: z.string() }).readonly(),
  /** Where a person pointed at it, below a root that the server was started with. */
  z.object({ kind: z.literal('served'), root: z.string(), folder: z.string(), name: z.string() }).readonly(),
]);

/** Who tells of a game's builds and mods. Of the same thing the earlier one counts. */
export const GameSourceSchema = z.discriminatedUnion('kind', [
  /** The service of this server's own: the stand-in for a storefront, which wants a sign-in. */
  z.object({ kind: z.literal('service'), id: z.string() }).readonly(),
  /** An address elsewhere, which a person typed here or a game's file told of and a person confirmed. */
  z
    .object({
      kind: z.literal('address'),
      id: z.string(),
      of: z.enum(['builds', 'mods']),
      href: z.string(),
      trust: z.enum(['typed', 'told']),
    })
    .readonly(),
  /** Files that were handed over: they say what there is, and have none of it. */
  z.object({ kind: z.literal('handed'), id: z.string(), of: z.enum(['builds', 'mods']), title: z.string() }).readonly(),
  /** Builds that were recorded from own folders here, or declared by their labels. */
  z.object({ kind: z.literal('recorded'), id: z.string(), of: z.literal('builds') }).readonly(),
]);
export type GameSource = z.infer<typeof GameSourceSchema>;

/** A game, and who tells of it. */
export const GameRecordSchema = GameSchema.extend({
  sources: z.array(GameSourceSchema).readonly(),
  /** What others said of releases of its mods, as a person wrote it down. */
  said: z.array(SaidSchema).readonly().exactOptional(),
  /** Milliseconds since 1970. */
  addedAt: z.number(),
  /** When the record or its list of sources was changed last. */
  changedAt: z.number(),
}).readonly();
export type GameRecord = z.infer<typeof GameRecordSchema>;

/** The decision that Fetch and Assemble carry out. */
export const TargetSchema = z
  .object({
    build: BuildLabelSchema,
    releases: pairs(ModIdSchema, z.string()),
    /** The order in which mods are loaded, where it is not the catalogue's. */
    order: z.array(ModIdSchema).readonly().exactOptional(),
    /** The list of mods to load, where a sheet decided: it is written just so. */
    list: z.string().exactOptional(),
    decidedBy: z.enum(['choice', 'hold-sheet', 'mend']),
    /** SHA-256 of the manifests that it is made of, in laying order, where a sheet decided: they are not asked for anew. */
    manifests: z.array(z.string()).readonly().exactOptional(),
    /** The tree digest that the sheet claims, where a sheet decided: what is laid down has to have it. */
    sheetDigest: z.string().exactOptional(),
    /** The reasons, where it was chosen here or the sheet has them. */
    decision: DecisionSchema.exactOptional(),
    /** The build that mods were mended from, where `mend` decided. */
    from: BuildLabelSchema.exactOptional(),
    at: z.number(),
  })
  .readonly();
export type Target = z.infer<typeof TargetSchema>;

const VisitSchema = z.object({ at: z.number(), builds: z.array(BuildLabelSchema).readonly() }).readonly();

/** A folder that is no install's, where a person pointed at it. */
const PointedAtSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('picked'), handle: HandleSchema }).readonly(),
  z.object({ kind: z.literal('served'), root: z.string(), folder: z.string() }).readonly(),
]);

/** What an install's disk calls such a folder in `beside/`: letters, for as long as it is pointed at. */
const BesideNameSchema = z.string().regex(/^[a-z]{1,20}$/);

/** A folder outside the game's with files of the player's, where a person pointed at it. */
const ElsewhereSchema = z
  .object({
    name: BesideNameSchema,
    kind: z.enum(OWN_KINDS),
    /** As a person knows it. */
    title: z.string(),
    /** A cloud service synchronises it, as the person said: it may put other files back. */
    synced: z.literal(true).exactOptional(),
    at: PointedAtSchema,
  })
  .readonly();
export type Elsewhere = z.infer<typeof ElsewhereSchema>;

/** What a person has decided about a folder of a mod that another program keeps up to date. */
const FollowedModSchema = z
  .object({
    /** Below the folder that is followed; empty where that is the mod's own. */
    folder: z.string(),
    /** What has been taken from it. */
    releases: pairs(ModIdSchema, z.string()),
    /** The state that was decided about: a digest of the names, sizes and times of its files. */
    state: z.string(),
    /** It was not taken in that state. */
    isPassed: z.literal(true).exactOptional(),
  })
  .readonly();
export type FollowedMod = z.infer<typeof FollowedModSchema>;

/** A folder with mods that another program keeps up to date, where a person pointed at it. */
const FollowedSchema = z
  .object({
    name: BesideNameSchema,
    /** As a person knows it. */
    title: z.string(),
    at: PointedAtSchema,
    /** Each folder in it is a mod; else it is one itself. */
    each: z.boolean(),
    mods: z.array(FollowedModSchema).readonly(),
    /** Mods in it that were in another state at the last look than what was decided about, as a person knows them. */
    waiting: z.array(z.string()).readonly(),
  })
  .readonly();
export type Followed = z.infer<typeof FollowedSchema>;

const ChoiceSchema = z.enum(['ours', 'theirs', 'shift']);
const DecidedPlaceSchema = z
  .object({
    ...{ file: z.string(), path: z.array(z.string()).readonly() },
    ...{ base: z.string().optional(), ours: z.string().optional(), theirs: z.string().optional() },
    choice: z.union([ChoiceSchema, z.object({ value: z.string() }).readonly()]),
  })
  .readonly();

/** In how many places a release differs from each build that it may be made from, the nearest first; those of the game's files at hand. */
const NearestSchema = z
  .object({
    release: z.string(),
    builds: z.array(z.object({ build: BuildLabelSchema, places: z.int().min(0) }).readonly()).readonly(),
  })
  .readonly();

/** What was decided about the conflicts of a mod's files with the game's. */
const CarriedSchema = z
  .object({
    mod: ModIdSchema,
    decided: z.array(DecidedPlaceSchema).readonly(),
    rules: z.array(z.object({ file: z.string(), name: z.string(), choice: ChoiceSchema }).readonly()).readonly(),
    // By file of a table: the columns that tell its rows apart.
    keys: z
      .array(z.object({ file: z.string(), columns: z.array(z.string()).readonly() }).readonly())
      .readonly()
      .exactOptional(),
    nearest: NearestSchema.exactOptional(),
  })
  .readonly();
export type Nearest = z.infer<typeof NearestSchema>;
export type Carried = z.infer<typeof CarriedSchema>;

/** A start while a failure is narrowed down, and what came of it. */
const NarrowingStartSchema = z
  .object({ at: z.number(), on: z.array(ModIdSchema).readonly(), outcome: z.enum(['fails', 'runs', 'cannot-tell']) })
  .readonly();

/** A failure that is being narrowed down to what breaks the game. */
const NarrowingSchema = z
  .object({
    at: z.number(),
    build: BuildLabelSchema,
    /** What fails: the game does not come up, a mod does not load, or something that a person sees. */
    symptom: z.discriminatedUnion('kind', [
      z.object({ kind: z.literal('crash') }).readonly(),
      z.object({ kind: z.literal('not-loaded'), mod: ModIdSchema }).readonly(),
      z.object({ kind: z.literal('seen'), words: z.string() }).readonly(),
    ]),
    /** What lay in the folder when it began, and comes back at the end. */
    releases: pairs(ModIdSchema, z.string()),
    /** How suspicious each mod was then. */
    weights: pairs(ModIdSchema, z.number()),
    starts: z.array(NarrowingStartSchema).readonly(),
  })
  .readonly();
export type Narrowing = z.infer<typeof NarrowingSchema>;

/** The profile that is there without being asked for. */
export const FIRST_PROFILE = 'first';

/** A folder of the game, what belongs in it, and what is wanted of it. */
export const InstallSchema = z
  .object({
    id: z.string(),
    /** The id of the game that it is of. */
    game: z.string(),
    title: z.string(),
    /** The folder as a person knows it. */
    folder: z.string(),
    place: InstallPlaceSchema,
    /** The tree that is the game's folder now: a folder below `trees/` of the install's disk. */
    tree: z.string(),
    /** The profile that counts. */
    profile: z.string().default(FIRST_PROFILE),
    record: RecordPlaceSchema.exactOptional(),
    /** Folders outside the game's that have files of the player's. */
    elsewhere: z.array(ElsewhereSchema).readonly().exactOptional(),
    /** Folders outside the game's in which another program keeps mods up to date. */
    followed: z.array(FollowedSchema).readonly().exactOptional(),
    ownership: OwnershipSchema,
    weights: pairs(ModIdSchema, WeightSchema),
    /** Mods that are to run at just this release, or not at all. */
    pins: pairs(ModIdSchema, z.string()).exactOptional(),
    /** Mods that are wanted, but out of the folder for a while. */
    bench: z.array(BenchedSchema).readonly().exactOptional(),
    /** Releases that a person wants to have, whatever speaks against them. */
    insisted: pairs(ModIdSchema, z.string()).exactOptional(),
    /** How weak the evidence may be that a release runs at a build; that its author says so, where it is left out. */
    evidence: z.enum(EVIDENCE_LEVELS).exactOptional(),
    /** Builds from old to new, where the service's order was put right by hand. */
    buildOrder: z.array(BuildLabelSchema).readonly().exactOptional(),
    target: TargetSchema.exactOptional(),
    /** The order in which mods are to be loaded, where a person has moved one; else that of the folder's list. */
    order: z.array(ModIdSchema).readonly().exactOptional(),
    /** What a person says about that order. What stands first counts more. */
    orderRules: z.array(OrderRuleSchema).readonly().exactOptional(),
    /** No mod files come along, be they of mods that nobody knows. */
    modFree: z.literal(true).exactOptional(),
    /** The keepsake that each pool of the player's files was left in, where profiles do not share them. */
    pools: pairs(z.string(), z.string()).exactOptional(),
    /** When something last changed the tree, in milliseconds since 1970; a survey from before does not count. */
    changedAt: z.number(),
    arrived: z.boolean(),
    /** Times of files that were put down with an older time than the disk can give them: those written until `at`. */
    toldTimes: z
      .object({ at: z.number(), times: pairs(z.string(), z.number()) })
      .readonly()
      .exactOptional(),
    /** When a person looked at it last, and which builds there were. */
    lastVisit: VisitSchema.exactOptional(),
    /** The visit that the person came back from after a while, until they have seen where things stand. */
    backFrom: VisitSchema.exactOptional(),
    /** Files that are no part of any target, and whether they come along; by what they are, where it is not said. */
    along: pairs(z.string(), z.boolean()).exactOptional(),
    narrowing: NarrowingSchema.exactOptional(),
    /** What was decided where a mod and the game changed the same, when the mod was carried forward. */
    carries: z.array(CarriedSchema).readonly().exactOptional(),
    /** Builds of which the person said that they need not be kept whole. */
    notKept: z.array(BuildLabelSchema).readonly().exactOptional(),
    /** How long what is kept stays, per kind. */
    retention: z
      .object({
        changeDays: z.number().exactOptional(),
        changeBytes: z.number().exactOptional(),
        fetchedDays: z.number().exactOptional(),
        builds: z.number().exactOptional(),
        keepsakes: z.number().exactOptional(),
        keepsakeDays: z.number().exactOptional(),
        keepsakeBytes: z.number().exactOptional(),
      })
      .readonly()
      .exactOptional(),
    /** Whether a copy of each keepsake is kept in this browser, apart from the folder; undefined as long as nobody has said. */
    keepsakeCopies: z.enum(['kept', 'refused']).exactOptional(),
    /** Bytes free on the folder's drive, as the person said, where the folder does not tell. */
    freeBytes: z.number().exactOptional(),
    /** What is decided here may replace what the folder's store keeps and could not be taken over. */
    mirrorsOver: z.literal(true).exactOptional(),
  })
  .readonly();
export type Install = z.infer<typeof InstallSchema>;

/**
 * Whose each field of an install is: `here` of the browser that knows the folder, `folder` of the folder, wherever it is known,
 * `profile` of each profile by itself. One that is not named does not compile, so that none is forgotten where they are kept,
 * mirrored or handed on.
 */
const FIELDS = {
  ...({ id: 'here', game: 'here', title: 'here', folder: 'here', place: 'here', tree: 'here' } as const),
  ...({ changedAt: 'here', arrived: 'here', toldTimes: 'here', lastVisit: 'here', backFrom: 'here' } as const),
  ...({ freeBytes: 'here', mirrorsOver: 'here', keepsakeCopies: 'here' } as const),
  ...({ profile: 'folder', record: 'folder', elsewhere: 'folder', followed: 'folder', ownership: 'folder' } as const),
  ...({ buildOrder: 'folder', pools: 'folder', narrowing: 'folder', carries: 'folder', notKept: 'folder' } as const),
  ...({ retention: 'folder' } as const),
  ...({ weights: 'profile', pins: 'profile', bench: 'profile', insisted: 'profile', evidence: 'profile' } as const),
  ...({ target: 'profile', order: 'profile', orderRules: 'profile', modFree: 'profile', along: 'profile' } as const),
} as const satisfies Record<keyof Install, 'here' | 'folder' | 'profile'>;

type FieldsOf<Whose> = {
  [Field in keyof typeof FIELDS]: (typeof FIELDS)[Field] extends Whose ? Field : never;
}[keyof typeof FIELDS];
const fieldsOf = <Whose extends 'folder' | 'profile'>(whose: Whose): Record<FieldsOf<Whose>, true> =>
  Object.fromEntries(Object.entries(FIELDS).flatMap(([field, of]) => (of === whose ? [[field, true]] : []))) as Record<
    FieldsOf<Whose>,
    true
  >;

/** What is decided about a folder, whichever profile counts. */
export const FolderDecidedSchema = InstallSchema.unwrap().pick(fieldsOf('folder'));
export type FolderDecided = z.infer<typeof FolderDecidedSchema>;

/** What each profile decides for itself. */
export const DecidedSchema = InstallSchema.unwrap().pick(fieldsOf('profile'));
export type Decided = Readonly<z.infer<typeof DecidedSchema>>;
export const DECIDED_FIELDS = DecidedSchema.keyof().options;

/** A profile of an install. */
export const StoredProfileSchema = DecidedSchema.extend({
  install: z.string(),
  id: z.string(),
  title: z.string(),
  /** Which of the player's files it has for itself; all are shared, where that is left out. */
  sharing: SharingSchema.exactOptional(),
  /** Begins without such files; else with those that lie there when it is first switched to. */
  startsEmpty: z.literal(true).exactOptional(),
}).readonly();
export type StoredProfile = z.infer<typeof StoredProfileSchema>;

/** A mod that a person brought in. It is laid over the catalogue's one of the same id. */
export const OwnModSchema = ModSchema.extend({
  game: z.string(),
  /** What it was read from: a file's name, or the form. */
  from: z.string(),
  at: z.number(),
});
export type OwnMod = z.infer<typeof OwnModSchema>;

/** A release on the shelf of a game, as it was known when it was put there. */
export const ShelvedSchema = z
  .object({
    game: z.string(),
    mod: ModIdSchema,
    version: z.string(),
    /** The mod with that release alone. */
    entry: ModSchema,
    /** Where its files were taken from: an archive's name, or the folder's title. */
    from: z.string(),
    /** When, in milliseconds since 1970. */
    at: z.number(),
    /** What the person has to say of it. */
    words: z.string().max(2000).exactOptional(),
  })
  .readonly();
export type Shelved = z.infer<typeof ShelvedSchema>;

const WireFailureSchema: z.ZodType<WireFailure> = z.object({
  code: z.enum(FAILURE_CODES),
  facts: z.custom<Facts>((value) => typeof value === 'object' && value !== null),
  get cause() {
    return WireFailureSchema.exactOptional();
  },
}) as z.ZodType<WireFailure>;

const unreadable = z.array(z.object({ path: z.string(), failure: WireFailureSchema }).readonly()).readonly();

const ReadingShape = {
  /** When the reading began, in milliseconds since 1970. */
  at: z.number(),
  paths: texts(),
  sizes: numbers,
  modified: numbers,
  keys: texts<ContentKey>(),
};
const isEven = ({ paths, sizes, modified, keys }: z.infer<z.ZodObject<typeof ReadingShape>>): boolean =>
  [sizes, modified, keys].every(({ length }) => length === paths.length);
const UNEVEN = 'has columns of unequal length';

/** What a job has read so far, of an install's folder. */
export const StoredReadingSchema = z
  .object({ ...ReadingShape, install: z.string(), job: z.string() })
  .refine(isEven, UNEVEN)
  .readonly();
export type StoredReading = z.infer<typeof StoredReadingSchema>;

/** Every file of a tree with the key of its contents. A change after `at` makes it old. */
export const StoredSurveySchema = z
  .object({
    ...ReadingShape,
    install: z.string(),
    tree: z.string(),
    /** Files whose digest was taken over from an earlier reading, since size and time were the same. */
    trusted: z.number(),
    unreadable,
    /** The list of mods to load, as it lies there. */
    modList: z.string().exactOptional(),
    /** That list as it was when it last had an entry, where it has none now. */
    lastModList: z.string().exactOptional(),
    /** The builds that saves say they were written by. */
    saveBuilds: pairs(z.string(), BuildLabelSchema).exactOptional(),
    /** Whether the loader's own switch had mods be loaded; left out where the rules know of none, or it could not be read. */
    loaderSwitch: z.enum(['on', 'off']).exactOptional(),
    /** Keys that the file with that switch would have with the switch otherwise. */
    switched: texts<ContentKey>().exactOptional(),
    /** Versions that files of the game tell of it. */
    versions: pairs(z.string(), z.string()).exactOptional(),
  })
  .refine(isEven, UNEVEN)
  .readonly();
export type StoredSurvey = z.infer<typeof StoredSurveySchema>;

/** What names, sizes and the bytes of a few sampled files said of a tree. */
export const StoredLookSchema = z
  .object({
    install: z.string(),
    tree: z.string(),
    /** When it began. */
    at: z.number(),
    files: z.number(),
    bytes: z.number(),
    /** The sampled files that were read, and their bytes. */
    read: z.array(z.object({ path: z.string(), size: z.number() }).readonly()).readonly(),
    depots: z.custom<readonly QuickIdentity[]>(Array.isArray, 'is not a list'),
  })
  .readonly();
export type StoredLook = z.infer<typeof StoredLookSchema>;

export const JOB_KINDS = [
  'seed',
  'look',
  'survey',
  'keepsake',
  'put-back',
  'drop-keepsakes',
  'copy-keepsakes',
  'pack-keepsake',
  'pack-sheet',
  'shelve',
  'bring-keepsake',
  'bring-own',
  'fetch',
  'bring-depots',
  'assemble',
  'clean',
  'hold',
  'release',
  'switch-branch',
  'switch-profile',
  'copy-folder',
  'delete-files',
  'move-files',
  'set-switch',
  'take-back',
  'let-go',
  'keep-build',
  'keep-vanilla',
  'record-build',
  'tend-store',
  'move-store',
  'storefront-update',
  'start',
] as const;
export type JobKind = (typeof JOB_KINDS)[number];
const JobStateSchema = z.enum(['waiting', 'running', 'paused', 'done', 'failed', 'cancelled']);
export type JobState = z.infer<typeof JobStateSchema>;

const JobProgressSchema = z
  .object({
    phase: z.string(),
    files: z.number(),
    filesTotal: z.number(),
    bytes: z.number(),
    bytesTotal: z.number(),
    /** Bytes that came over the wire for it, where it fetches: what they become is counted above. */
    wire: z.number().exactOptional(),
  })
  .readonly();
export type JobProgress = z.infer<typeof JobProgressSchema>;

export const JobRecordSchema = z
  .object({
    id: z.string(),
    install: z.string(),
    kind: z.enum(JOB_KINDS),
    /** Each kind has a schema of its own for them. */
    params: z.unknown(),
    state: JobStateSchema,
    /** Its person wants it undone: whoever drives it does that. */
    cancelling: z.literal(true).exactOptional(),
    progress: JobProgressSchema,
    failure: WireFailureSchema.exactOptional(),
    /** What a kind tells that found something out; each has a schema of its own for it. */
    outcome: z.unknown().optional(),
    startedAt: z.number(),
    endedAt: z.number().exactOptional(),
  })
  .readonly();
export type JobRecord = z.infer<typeof JobRecordSchema>;

const HoldCheckSchema = z
  .object({
    at: z.number(),
    drift: z.number(),
    /** Whether the storefront's record is set to update only when asked; left out where there is none to read. */
    setting: z.boolean().exactOptional(),
    lock: z.boolean().exactOptional(),
    /** Files that were made read-only and can be written again, of those that were looked at; left out where none were made so. */
    unlocked: z.number().exactOptional(),
    /** By names, sizes and times alone; else the bytes were read of what had changed, or of everything. */
    glance: z.literal(true).exactOptional(),
    /** Files that were put back then. */
    repaired: z.number().exactOptional(),
  })
  .readonly();
export type HoldCheck = z.infer<typeof HoldCheckSchema>;

export const HoldRecordSchema = z
  .object({
    install: z.string(),
    sheet: HoldSheetSchema,
    checks: z.array(HoldCheckSchema).readonly(),
    /** Departures that the person has taken over. */
    accepted: pairs(z.string(), z.string().nullable()).exactOptional(),
    /** Files of the folder that were made read-only with the hold. */
    locked: texts().exactOptional(),
  })
  .readonly();
export type HoldRecord = z.infer<typeof HoldRecordSchema>;

export const StoredTrialSchema = z.object({ install: z.string(), at: z.number(), answer: GameAnswerSchema }).readonly();
export type StoredTrial = z.infer<typeof StoredTrialSchema>;

/** Keeps the token of a sign-in, never the passphrase. */
export const StoredSessionSchema = z
  .object({ token: z.string(), account: z.string(), branches: z.array(z.string()) })
  .readonly();
export type StoredSession = z.infer<typeof StoredSessionSchema>;

const FilesAndBytesSchema = z.object({ files: z.number(), bytes: z.number() }).readonly();
const SomePathsSchema = z.object({ count: z.number(), some: z.array(z.string()).readonly() }).readonly();

/** How a fetch went: bytes and requests, and what it could not get, with the code of the failure each. */
export const FetchReportSchema = z
  .object({
    build: z.string(),
    /** Files that had to come, and their bytes. */
    files: z.number(),
    wholeBytes: z.number(),
    /** Of these what came, and what lay in other files already. */
    fetchedBytes: z.number(),
    reusedBytes: z.number(),
    /** What the sources sent for it, right or wrong. */
    wireBytes: z.number(),
    requests: z.number(),
    milliseconds: z.number(),
    /** Bytes that came in each step of so many milliseconds. */
    course: z.object({ step: z.number(), bytes: z.array(z.number()).readonly() }).readonly(),
    /** Of files that have come in part, by their SHA-256, the pieces `[from, to)` that are here and right. */
    partly: pairs(z.string(), pairs(z.number(), z.number())).default([]),
    missing: z
      .array(z.object({ path: z.string(), href: z.string(), why: z.enum(FAILURE_CODES) }).readonly())
      .readonly(),
  })
  .readonly();
export type FetchReport = z.infer<typeof FetchReportSchema>;

/** What a keepsake is without, since it could not be read, or was being written. */
export const KeptInPartSchema = z.object({ unread: texts() }).readonly();

/** What a folder had of a game's depots when it was read. */
export const BroughtReportSchema = z
  .object({
    build: BuildLabelSchema,
    /** Of those that could be part of a depot. */
    files: z.number(),
    depots: z
      .array(
        z
          .object({
            /** Where its tree begins in the folder. */
            folder: z.string(),
            depot: DepotIdSchema,
            title: z.string(),
            build: BuildLabelSchema,
            expected: FilesAndBytesSchema,
            found: FilesAndBytesSchema,
            missing: SomePathsSchema,
            altered: SomePathsSchema,
            /** Whether it lies there whole a second time. */
            isAgain: z.boolean(),
            why: z.enum(['other-build', 'other-language', 'not-owned', 'not-chosen']).optional(),
          })
          .readonly(),
      )
      .readonly(),
  })
  .readonly();
export type BroughtReport = z.infer<typeof BroughtReportSchema>;
