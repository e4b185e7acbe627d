import { z } from 'zod';
import { bagName } from '#core/keepsakes';
import { browserDisk, INSTALL_DISK, keepsakePath, partPath } from '~/folders';
import { query } from '~/queries';
import { getIndex, getInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { runCounted } from './batches';
import { sourceOf } from '~/places';

const ParamsSchema = z.object({
  /** ISO time; it names the keepsake, so that a job that goes on makes the same one. */
  date: z.iso.datetime(),
});

/** Packs the player's own files, found by the game's rules, into one archive in BagIt form on the browser disk. */
export const keepsake: Kind = {
  async run(context) {
    const { date } = readParams(context, ParamsSchema);
    const [install, { game }] = await Promise.all([getInstall(context.install), getIndex()]);
    const { reader, root, placeOf } = await sourceOf(install, install.tree);
    const prefix = root === '' ? '' : `${root}/`;
    context.phase('Looking for saves, settings and own content', 0, 0);
    const lists = await Promise.all(game.rules.own.map(({ folder }) => reader.list(prefix + folder)));
    // Places of own files may lie in one another.
    const files = new Map(lists.flat().map(({ path, size }) => [path.slice(prefix.length), size]));
    const { likeliest, modsHere } = await query('frame', install.id);
    const bytes = [...files.values()].reduce((sum, size) => sum + size, 0);
    context.phase('Packing the keepsake', files.size, bytes);
    const paths = [...files.keys()].toSorted();
    const name = bagName(game.id, date);
    await runCounted(context, {
      do: 'bag',
      place: placeOf(paths.map((path) => prefix + path)),
      root,
      paths,
      disk: INSTALL_DISK(install.id),
      to: keepsakePath(name),
      name,
      info: { date, game: game.title, folder: install.folder, build: likeliest, mods: modsHere },
    });
  },
  async undo(context) {
    const { date } = readParams(context, ParamsSchema);
    const { game } = await getIndex();
    const path = keepsakePath(bagName(game.id, date));
    const disk = browserDisk(INSTALL_DISK(context.install));
    await Promise.all([disk.remove(path), disk.remove(partPath(path))]);
  },
};
