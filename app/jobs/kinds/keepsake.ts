import { z } from 'zod';
import { isPartOf } from '#core/builds';
import { bagName } from '#core/keepsakes';
import { browserDisk, INSTALL_DISK, keepsakePath, partPath } from '~/folders';
import { query } from '~/queries';
import { getGame, getInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { runCounted } from './batches';
import { type Source, sourceAt, sourceOf } from '~/places';
import type { Packed } from '~/workers';

const ParamsSchema = z.object({
  /** ISO time; it names the keepsake, so that a job that goes on makes the same one. */
  date: z.iso.datetime(),
});

/** Files of a folder that go into the keepsake. */
async function packedOf(
  { reader, root, placeOf }: Source,
  under: string,
  isOwn: (path: string) => boolean,
): Promise<{ packed: Packed; files: number; bytes: number }> {
  const prefix = root === '' ? '' : `${root}/`;
  const all = (await reader.list(root)).map(({ path, size }) => ({ path: path.slice(prefix.length), size }));
  const own = all.filter(({ path }) => isOwn(path));
  const paths = own.map(({ path }) => path);
  return {
    packed: { place: placeOf(paths.map((path) => prefix + path)), root, paths, under },
    files: own.length,
    bytes: own.reduce((sum, { size }) => sum + size, 0),
  };
}

/** Packs the player's own files, found by the game's rules and where the person pointed at them, into one archive in BagIt form on the browser disk. */
export const keepsake: Kind = {
  async run(context) {
    const { date } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const game = await getGame(install.game);
    context.phase('Looking for saves, settings and own content', 0, 0);
    const inGame = await sourceOf(install, install.tree);
    const { own } = game.rules;
    const groups = [
      await packedOf(inGame, '', (path) => own.some(({ folder }) => isPartOf(path, folder))),
      // Where a person pointed at a folder outside the game's, all of it is theirs.
      ...(await Promise.all(
        (install.elsewhere ?? []).map(async ({ kind, at }, i) =>
          packedOf(await sourceAt(at), `elsewhere/${kind}-${i + 1}`, () => true),
        ),
      )),
    ];
    const { likeliest, modsHere } = await query('frame', install.id);
    const total = (of: 'files' | 'bytes'): number => groups.reduce((sum, group) => sum + group[of], 0);
    context.phase('Packing the keepsake', total('files'), total('bytes'));
    const name = bagName(game.id, date);
    await runCounted(context, {
      do: 'bag',
      packed: groups.map(({ packed }) => packed),
      disk: INSTALL_DISK(install.id),
      to: keepsakePath(name),
      name,
      info: { date, game: game.title, folder: install.folder, build: likeliest, mods: modsHere },
    });
  },
  async undo(context) {
    const { date } = readParams(context, ParamsSchema);
    const { game } = await getInstall(context.install);
    const path = keepsakePath(bagName(game, date));
    const disk = browserDisk(INSTALL_DISK(context.install));
    await Promise.all([disk.remove(path), disk.remove(partPath(path))]);
  },
};
