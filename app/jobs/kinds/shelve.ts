import { z } from 'zod';
import { KeySchema } from '#core/changes';
import { makeReference, type Reference } from '#core/contents';
import { asMod } from '#core/builds';
import { type ContentKey, keySize } from '#core/digest';
import { type Catalogue, modById, releaseAt } from '#core/mods';
import { type Changes, changesOf, type StoreAct } from '~/changes';
import { query } from '~/queries';
import { platformSha256 } from '~/remote';
import {
  getCatalogue,
  getInstall,
  type Install,
  OwnModSchema,
  putOwnMods,
  putShelved,
  removeShelved,
  type Shelved,
  type Target,
} from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { runCounted } from './batches';

const ParamsSchema = z.object({
  archives: z
    .array(
      z.object({
        /** The browser keeps a reference to it, not its bytes. */
        from: z.instanceof(File),
        /** Whether it is in BagIt form, and its files are named below the payload. */
        isBag: z.boolean(),
        /** The files that are taken out of it, by what they are called in it. */
        files: z.array(z.object({ path: z.string(), key: KeySchema, modified: z.number() })),
      }),
    )
    .readonly(),
  releases: z
    .array(
      z.object({
        ...{ mod: z.string(), release: z.string(), keys: z.array(KeySchema) },
        /** Where contents lie in the folder that are in no archive. */
        from: z.array(z.tuple([KeySchema, z.string()])).default([]),
        /** What its files are taken from, as a person is told; the folder, where it is left out. */
        source: z.string().exactOptional(),
      }),
    )
    .readonly(),
  /** Releases that the catalogue does not know: they are added to it once their files are there. */
  add: z.array(OwnModSchema).readonly(),
});
type Taken = z.output<typeof ParamsSchema>['releases'][number];

/** The reference by which the files of a release are kept: one for all folders of a game. */
async function referenceTo(game: string, { mod, release }: Pick<Taken, 'mod' | 'release'>): Promise<string> {
  return `release-${(await platformSha256(JSON.stringify([game, mod, release]))).slice(0, 16)}`;
}

async function referTo(
  game: string,
  shelved: Pick<Taken, 'mod' | 'release'> & { readonly keys: readonly ContentKey[] },
  at: number,
): Promise<Reference> {
  const { mod, release, keys } = shelved;
  const reason = { kind: 'release', game, mod, release } as const;
  return makeReference({ id: await referenceTo(game, shelved), at, reason }, keys, { sha256: platformSha256 });
}

const keepAct = (
  reference: Reference,
  from: readonly (readonly [key: ContentKey, path: string])[],
): Extract<StoreAct, { act: 'keep' }> => ({
  ...{ act: 'keep', reference },
  from: from.map(([key, path]) => [key, path]),
});

/** What is known of releases now, to be kept with them. */
const shelvedOf = (
  catalogue: Catalogue,
  { game, title }: Install,
  releases: readonly Pick<Taken, 'mod' | 'release' | 'source'>[],
  at: number,
): Shelved[] =>
  releases.flatMap(({ mod: id, release: version, source = title }) => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    return release ? [{ game, mod: mod.id, version, entry: { ...mod, releases: [release] }, from: source, at }] : [];
  });

/**
 * Puts the releases of mods that a change takes out of the folder on the shelf first, where they are not: nobody can withdraw them then.
 * @param stay releases that the folder has afterwards
 * @throws Failure `folder/*`, `job/cancelled`
 */
export async function shelveLeaving(context: JobContext, changes: Changes, stay: Target['releases']): Promise<void> {
  const releases = await query('leaving', context.install, stay);
  if (releases.length === 0) return;
  const keys = new Set(releases.flatMap((one) => one.keys));
  context.phase(
    'Putting mods that go on the shelf',
    keys.size,
    [...keys].reduce((sum, key) => sum + keySize(key), 0),
  );
  const install = await getInstall(context.install);
  const at = Date.now();
  const acts = await Promise.all(releases.map(async (one) => keepAct(await referTo(install.game, one, at), one.from)));
  await changes.carryOut(context, { act: 'each', acts });
  await putShelved(shelvedOf(await getCatalogue(install.game), install, releases, at));
}

/** Takes files of mods out of archives or the folder into the store, release by release. No file of the game is touched. */
export const shelve: Kind = {
  async run(context) {
    const { archives, releases, add } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const changes = changesOf(install);
    const at = Date.now();
    const references = await Promise.all(releases.map((one) => referTo(install.game, one, at)));
    const out = archives.map(({ files, ...archive }) => ({
      ...archive,
      files: [...new Map(files.map((file) => [file.key, file])).values()],
    }));
    const all = out.flatMap(({ files }) => files);
    context.phase(
      'Taking files of mods in',
      all.length,
      all.reduce((sum, { key }) => sum + keySize(key), 0),
    );
    // Named before they come, so that nobody clears them away meanwhile.
    const named = references.map((reference) => ({ act: 'refer', reference }) as const);
    await changes.carryOut(uncounted(context), { act: 'each', acts: named });
    for (const archive of out) await runCounted(context, { do: 'unpack', ...archive, to: changes.arrivals });
    const kept = references.map((reference, i) => keepAct(reference, releases[i]!.from));
    await changes.carryOut(uncounted(context), { act: 'each', acts: kept });
    await putOwnMods(add);
    await putShelved(shelvedOf(await getCatalogue(install.game), install, releases, at));
  },
  async undo(context: JobContext) {
    const { releases } = readParams(context, ParamsSchema);
    const { game } = await getInstall(context.install);
    const changes = changesOf(await getInstall(context.install));
    const references = await Promise.all(releases.map((shelved) => referenceTo(game, shelved)));
    const dropped = references.map((reference) => ({ act: 'drop', reference }) as const);
    await changes.carryOut(uncounted(context), { act: 'each', acts: dropped });
    for (const { mod, release } of releases) await removeShelved(game, asMod(mod), release);
  },
};
