import { z } from 'zod';
import { asMod, BuildLabelSchema, ModIdSchema } from '#core/builds';
import { makeReference } from '#core/contents';
import { keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { isNowhere } from '#core/fetch';
import { changesOf } from '~/changes';
import { type CarryView, query, type Whence } from '~/queries';
import { platformSha256 } from '~/remote';
import { getInstall } from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { fetchContents } from './fetch';

const ParamsSchema = z.object({
  ...{ mod: ModIdSchema, release: z.string(), from: BuildLabelSchema, to: BuildLabelSchema },
  bases: z.boolean().default(false).describe('At each build that the release may be made for'),
});

/** The reference by which the game's files of a mod are kept: one for all folders of a game. */
async function referenceTo(game: string, mod: string): Promise<string> {
  return `vanilla-${(await platformSha256(JSON.stringify([game, mod]))).slice(0, 16)}`;
}

const comingFor = (kept: string): string => `${kept}-coming`;

/** What has to be there, and where of it lies what. */
interface Plan extends Pick<CarryView, 'mod' | 'from' | 'missing'> {
  readonly all: readonly Whence[];
}

async function planOf(context: JobContext): Promise<Plan> {
  const { mod, bases: hasBases, ...wish } = readParams(context, ParamsSchema);
  const asked = { mod: asMod(mod), ...wish };
  const [view, bases] = await Promise.all([
    query('carry', context.install, asked),
    hasBases ? query('carryBases', context.install, asked) : { bases: [], missing: [] },
  ]);
  if (!view || !bases) throw new Failure('job/not-checked-out', { what: 'manifests or survey' });
  // A build whose files are to be had nowhere is not compared with.
  const others = bases.missing.filter((item) => !isNowhere(item));
  const missing = new Map([...view.missing, ...others].map((item) => [item.key, item]));
  const files = [...view.files, ...bases.bases.flatMap((one) => one.files)];
  return {
    ...{ mod: view.mod, from: view.from, missing: [...missing.values()] },
    all: files.flatMap(({ ours, base, ...more }) =>
      [ours, base, 'theirs' in more ? more.theirs : undefined].filter((one) => one !== undefined),
    ),
  };
}

/**
 * Keeps the game's files that a release is made from, at the build that it was made for and at the one that it is carried to, with its
 * own: what lies nowhere is fetched. The next time it is carried from there.
 */
export const keepVanilla: Kind = {
  async run(context) {
    const install = await getInstall(context.install);
    const before = await planOf(context);
    const id = await referenceTo(install.game, before.mod);
    const nowhere = before.missing.filter(isNowhere);
    if (nowhere.length > 0) throw new Failure('folder/not-found', { path: nowhere[0]!.path, missing: nowhere.length });
    if (before.missing.length > 0)
      await fetchContents(context, install, { id: comingFor(id), build: before.from, items: before.missing });
    const { all } = await planOf(context);
    const lying = new Map(all.flatMap(({ key, at }) => (at === undefined ? [] : [[key, at] as const])));
    context.phase(
      'Keeping the files',
      lying.size,
      [...lying.keys()].reduce((sum, key) => sum + keySize(key), 0),
    );
    const reason = { kind: 'vanilla', game: install.game, mod: before.mod } as const;
    const changes = changesOf(install);
    const reference = await makeReference({ id, at: Date.now(), reason }, lying.keys(), { sha256: platformSha256 });
    await changes.carryOut(context, { act: 'keep', reference, from: [...lying] });
    if (before.missing.length > 0)
      await changes.carryOut(uncounted(context), { act: 'drop', reference: comingFor(id) });
    await query('storeChanged');
  },
  async undo(context) {
    const install = await getInstall(context.install);
    const id = await referenceTo(install.game, readParams(context, ParamsSchema).mod);
    await changesOf(install).carryOut(uncounted(context), { act: 'drop', reference: comingFor(id) });
  },
};
