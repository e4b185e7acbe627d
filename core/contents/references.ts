import { z } from 'zod';
import { type ContentKey, keySize } from '#core/digest';
import { ChangeSetIdSchema, KeySchema, PLACES, putRecord, recordAt, type RecordPorts } from '#core/changes';
import { Failure, isFailure } from '#core/failure';
import { parseJson } from '#core/json';
import { contentName } from './names';

/** A reference that was written by a newer version of the program is not read, and nothing is removed beside it. */
export const REFERENCE_VERSION = 2;

const NameSchema = z.string().regex(/^[0-9a-f]{64}$/);

/** Why contents are kept. */
const ReasonSchema = z.discriminatedUnion('kind', [
  /** They came for a build that is to be laid down in an install. */
  z.object({ kind: z.literal('fetched'), install: z.string().max(64), build: z.string().max(100) }),
  /** Mods cover them in an install: taking one out puts them back. */
  z.object({ kind: z.literal('covered'), install: z.string().max(64), build: z.string().max(100) }),
  /** A build that is kept whole, for the day after the next update. */
  z.object({ kind: z.literal('build'), game: z.string().max(100), build: z.string().max(100) }),
  /** The game's own files that a mod is made from, for the next time that it is carried forward. */
  z.object({ kind: z.literal('vanilla'), game: z.string().max(100), mod: z.string().max(60) }),
  /** They are of a release of a mod, on the shelf. */
  z.object({
    ...{ kind: z.literal('release'), game: z.string().max(100) },
    ...{ mod: z.string().max(60), release: z.string().max(200) },
  }),
  /** They are the player's own, in a keepsake. */
  z.object({ kind: z.literal('keepsake'), install: z.string().max(64), keepsake: ChangeSetIdSchema }),
]);
export type Reason = z.infer<typeof ReasonSchema>;

export const ReferenceSchema = z.object({
  version: z.literal([1, REFERENCE_VERSION]),
  id: ChangeSetIdSchema,
  reason: ReasonSchema,
  /** Milliseconds since 1970. */
  at: z.number(),
  /** When the bytes of all of them were last read and found right; left out while they are still being gathered. */
  checkedAt: z.number().exactOptional(),
  contents: z.array(z.tuple([NameSchema, KeySchema])).max(2_000_000),
});
export type Reference = z.infer<typeof ReferenceSchema>;

/** What is written down of a reference; its contents lie beside it, since there may be hundreds of thousands. */
const HeadSchema = ReferenceSchema.omit({ contents: true }).extend({ listSha256: NameSchema });

const pathOf = (id: string): string => `${PLACES.references}/${id}.dat`;
const LIST_END = '.list.dat';
/**
 * One content a line: its name, a space, its key. Each list has a name of its own, so that the reference which counts always
 * has the one that it was written with.
 */
const listPathOf = (id: string, sha256: string): string =>
  `${PLACES.references}/${id}.${sha256.slice(0, 16)}${LIST_END}`;

/** Removes the lists of a reference but for one. */
async function removeLists({ disk }: Pick<RecordPorts, 'disk'>, id: string, but?: string): Promise<void> {
  for (const { path } of await disk.list(PLACES.references)) {
    const isList = path.startsWith(`${PLACES.references}/${id}.`) && path.endsWith(LIST_END);
    if (isList && path !== but) await disk.remove(path);
  }
}

/** A reference to contents, each once. */
export async function makeReference(
  { id, at, reason }: Pick<Reference, 'id' | 'at' | 'reason'>,
  keys: Iterable<ContentKey>,
  { sha256 }: Pick<RecordPorts, 'sha256'>,
): Promise<Reference> {
  const contents = await Promise.all(
    [...new Set(keys)].map(async (key): Promise<[string, ContentKey]> => [await contentName(key, sha256), key]),
  );
  return { version: REFERENCE_VERSION, id, at, reason, contents };
}

/** Writes a reference down, its list first, in place of one with its id; it is durable when this returns. */
export async function putReference(ports: RecordPorts, { contents, ...rest }: Reference): Promise<void> {
  const list = contents.map(([name, key]) => `${name} ${key}\n`).join('');
  const listSha256 = await ports.sha256(list);
  const path = listPathOf(rest.id, listSha256);
  await ports.disk.writeWhole(path, ports.encode(list));
  await ports.disk.sync([path]);
  await putRecord(ports, pathOf(rest.id), { ...rest, listSha256 });
  await removeLists(ports, rest.id, path);
}

/** Removes a reference, its list last: without it the reference could not be read. */
export async function removeReference(ports: Pick<RecordPorts, 'disk'>, id: string): Promise<void> {
  await ports.disk.remove(pathOf(id));
  await removeLists(ports, id);
}

/** Digits of a name. */
const NAME_LENGTH = 64;

/** @throws Failure `changes/damaged` */
function parseList(text: string, path: string): Reference['contents'] {
  if (text === '') return [];
  if (!text.endsWith('\n')) throw new Failure('changes/damaged', { path });
  return text
    .slice(0, -1)
    .split('\n')
    .map((line) => {
      // The digest of the list says that it is as it was written; this is for one that was written otherwise.
      const key = line.slice(NAME_LENGTH + 1) as ContentKey;
      if (line[NAME_LENGTH] !== ' ' || key.indexOf(':') < 1 || !Number.isSafeInteger(keySize(key)))
        throw new Failure('changes/damaged', { path });
      return [line.slice(0, NAME_LENGTH), key];
    });
}

/** @throws Failure `changes/newer`, `changes/damaged`, `json/*`, `folder/*` */
async function readOne(ports: RecordPorts, path: string): Promise<Reference> {
  const text = await recordAt(ports, path);
  if (text === undefined) throw new Failure('changes/damaged', { path });
  const { version } = parseJson(text, z.object({ version: z.number() }), path);
  if (version > REFERENCE_VERSION) throw new Failure('changes/newer', { found: version, expected: REFERENCE_VERSION });
  const { listSha256, ...head } = parseJson(text, HeadSchema, path);
  const listPath = listPathOf(head.id, listSha256);
  const bytes = await ports.disk.read(listPath);
  if ((await ports.sha256(bytes)) !== listSha256) throw new Failure('changes/damaged', { path: listPath });
  return { ...head, contents: parseList(ports.decode(bytes), listPath) };
}

/** The reference of an id; undefined where there is none. @throws Failure `changes/newer`, `changes/damaged`, `json/*` */
export async function readReference(ports: RecordPorts, id: string): Promise<Reference | undefined> {
  return (await ports.disk.stat(pathOf(id))) && readOne(ports, pathOf(id));
}

/**
 * All references of the store, and the paths of those that cannot be read: who cannot read every one must not remove any
 * content.
 */
export async function readReferences(
  ports: RecordPorts,
): Promise<{ references: Reference[]; unreadable: readonly string[] }> {
  const files = await ports.disk.list(PLACES.references);
  const unreadable: string[] = [];
  const references = await Promise.all(
    files.map(async ({ path }) => {
      // A list without its reference was cut off while one of the two was written or removed.
      if (path.endsWith(LIST_END)) return undefined;
      try {
        return await readOne(ports, path);
      } catch (error) {
        if (!isFailure(error)) throw error;
        unreadable.push(path);
        return undefined;
      }
    }),
  );
  return { references: references.filter((one) => one !== undefined), unreadable };
}
