import { z } from 'zod';
import { contentName, contentPath } from '#core/contents';
import { keySize } from '#core/digest';
import { bagName, KEEPSAKE_TAG, ownName, pathInBag } from '#core/keepsakes';
import { keeping, onOwnDisk } from '~/changes';
import { archivePath, dropArchive, INSTALL_DISK } from '~/folders';
import { keepsakeAt, keepsakesOf } from '~/places';
import { platformSha256 } from '~/remote';
import { getGame, getInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { runCounted } from './batches';

const ParamsSchema = z.object({
  keepsake: z.string(),
  /** When the keepsake was made: it names the archive. */
  at: z.number(),
  /** Names of the files that go in; all of them, where left out. */
  files: z.array(z.string()).readonly().optional(),
});

const nameOf = (game: string, at: number): string => bagName(game, new Date(at).toISOString());

/** Packs a keepsake into one archive in BagIt form on the browser's disk, for the person to take along. */
export const packKeepsake: Kind = {
  async run(context) {
    const { keepsake: id, at, files: chosen } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const game = await getGame(install.game);
    const there = await keepsakesOf(install);
    const keepsake = await keepsakeAt(install, id);
    const isCopy = there.onlyCopied.has(id);
    const { build, mods } = keepsake;
    const names = chosen && new Set(chosen);
    const files = keepsake.files.filter((file) => names?.has(ownName(file)) ?? true);
    const bytes = files.reduce((sum, { key }) => sum + keySize(key), 0);
    context.phase('Packing the keepsake', files.length, bytes);
    const packed = await Promise.all(
      files.map(async (file) => [pathInBag(file), contentPath(await contentName(file.key, platformSha256))] as const),
    );
    const name = nameOf(game.id, at);
    const date = new Date(keepsake.at).toISOString();
    await runCounted(context, {
      ...{
        do: 'bag',
        files: packed,
        from: (isCopy ? onOwnDisk(install) : await keeping(install)).arrivals,
        disk: INSTALL_DISK(install.id),
      },
      ...{ to: archivePath(name), name },
      info: { what: 'keepsake', date, game: game.title, folder: install.folder, build, mods: mods?.length },
      tags: [[KEEPSAKE_TAG, `${JSON.stringify({ ...keepsake, files }, null, 2)}\n`]],
    });
  },
  async undo(context) {
    const { at } = readParams(context, ParamsSchema);
    const { game } = await getInstall(context.install);
    await dropArchive(context.install, nameOf(game, at));
  },
};
