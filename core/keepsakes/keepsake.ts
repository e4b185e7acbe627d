import { z } from 'zod';
import { BuildLabelSchema, ModIdSchema, OWN_KINDS } from '#core/builds';
import { ChangeSetIdSchema, KeySchema, PLACES, putRecord, recordAt, type RecordPorts } from '#core/changes';
import { keySize } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { SafePathSchema } from '#core/paths';

/*
 * A keepsake is a dated list of the player's own files with their contents. The contents lie in the store, each once, held
 * by a reference of the keepsake's name; the list lies beside the install's journals.
 */

/** A keepsake that was written by a newer version of the program is named and left. */
export const KEEPSAKE_VERSION = 2;

/** The place of files in the game's folder; every other place is a folder outside it, by what the disk calls that. */
export const IN_GAME = 'game';

const PlaceNameSchema = z.string().regex(/^[a-z]{1,20}$/);

export const OwnFileSchema = z.object({
  /** {@link IN_GAME}, or the name of a folder outside the game's. */
  place: PlaceNameSchema,
  /** Relative to its place. */
  path: SafePathSchema,
  kind: z.enum(OWN_KINDS),
  key: KeySchema,
  /** Milliseconds since 1970; null where the disk does not tell. */
  modified: z.number().nullable(),
  /** By no rule of the player's, but of no release either: a mod that nobody knows, or what one has written. */
  along: z.literal(true).exactOptional(),
});
/** A file of the player's, with its bytes. */
export type OwnFile = z.infer<typeof OwnFileSchema>;

export const KeepsakeSchema = z.object({
  version: z.literal([1, KEEPSAKE_VERSION]),
  id: ChangeSetIdSchema,
  /** Milliseconds since 1970. */
  at: z.number(),
  /**
   * `change`: before a change set that could touch the files. `archive`: out of an archive that a person brought in.
   * `folder`: of another folder of the game.
   */
  why: z.enum(['asked', 'change', 'archive', 'folder']),
  /** What the change set was about to do, or what the archive or the folder is called. */
  what: z.string().max(200).optional(),
  /** The build that lay there, as far as it was known. */
  build: BuildLabelSchema.optional(),
  /** Title of the profile. */
  profile: z.string().max(200).optional(),
  /** Mods that lay in the folder, with their releases; undefined where nobody knows. */
  mods: z
    .array(z.tuple([ModIdSchema, z.string().max(200)]))
    .max(5000)
    .optional(),
  files: z.array(OwnFileSchema).max(500_000),
  /** Places and files that could not be read, and so are not in it. */
  unread: z.array(z.string()).max(100).optional(),
});
export type Keepsake = z.infer<typeof KeepsakeSchema>;

/** A keepsake without its files: how many there are, and their bytes. */
export const KeepsakeHeadSchema = KeepsakeSchema.omit({ version: true }).extend({
  files: z.number(),
  bytes: z.number(),
});
export type KeepsakeHead = z.infer<typeof KeepsakeHeadSchema>;

/** Keepsakes of an install, newest first, and the paths of those that cannot be read. */
export const KeepsakeListSchema = z.object({
  keepsakes: z.array(KeepsakeHeadSchema).readonly(),
  unreadable: z.array(z.string()).readonly(),
});
export type KeepsakeList = z.infer<typeof KeepsakeListSchema>;

/** The file of an archive in which the keepsake is described that it was packed of. */
export const KEEPSAKE_TAG = 'regressum-keepsake.json';

const PATH_END = '.dat';
const pathOf = (id: string): string => `${PLACES.keepsakes}/${id}${PATH_END}`;

/** The name of the reference that holds a keepsake's contents. */
export const keepsakeReference = (id: string): string => `keepsake-${id}`;

/** Writes a keepsake down whose contents are in the store; it is durable when this returns. */
export const putKeepsake = (ports: RecordPorts, keepsake: Keepsake): Promise<void> =>
  putRecord(ports, pathOf(keepsake.id), keepsake);

export const removeKeepsake = ({ disk }: Pick<RecordPorts, 'disk'>, id: string): Promise<void> =>
  disk.remove(pathOf(id));

/**
 * A keepsake of an install; undefined where there is none of that id.
 * @throws Failure `changes/newer`, `json/*` for one that was written by others
 */
export async function readKeepsake(ports: RecordPorts, id: string): Promise<Keepsake | undefined> {
  const path = pathOf(id);
  const text = await recordAt(ports, path);
  if (text === undefined) return undefined;
  const { version } = parseJson(text, z.object({ version: z.number() }), path);
  if (version > KEEPSAKE_VERSION) throw new Failure('changes/newer', { found: version, expected: KEEPSAKE_VERSION });
  return parseJson(text, KeepsakeSchema, path);
}

export function headOf({ version: _, files, ...rest }: Keepsake): KeepsakeHead {
  return { ...rest, files: files.length, bytes: files.reduce((sum, { key }) => sum + keySize(key), 0) };
}

/**
 * All keepsakes of an install. One that was cut off while it was written is left out: its job goes on, or takes it back.
 */
export async function readKeepsakes(ports: RecordPorts): Promise<KeepsakeList> {
  const keepsakes: KeepsakeHead[] = [];
  const unreadable: string[] = [];
  for (const { path } of await ports.disk.list(PLACES.keepsakes)) {
    // Archives for the person lie there too.
    if (!path.endsWith(PATH_END)) continue;
    try {
      const keepsake = await readKeepsake(ports, path.slice(PLACES.keepsakes.length + 1, -PATH_END.length));
      if (keepsake) keepsakes.push(headOf(keepsake));
    } catch (error) {
      if (!isFailure(error)) throw error;
      unreadable.push(path);
    }
  }
  return { keepsakes: keepsakes.toSorted((a, b) => b.at - a.at), unreadable };
}
