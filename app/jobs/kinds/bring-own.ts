import { z } from 'zod';
import { keySize } from '#core/digest';
import { failureFromWire } from '#core/failure';
import { IN_GAME, KEEPSAKE_VERSION, type Keepsake } from '#core/keepsakes';
import { keeping } from '~/changes';
import { besidePath } from '~/folders';
import { listOwn, ownPlaces, ownReadBefore } from '~/places';
import { query } from '~/queries';
import { getGame, getInstall } from '~/store';
import { type Kind, readParams, uncounted } from '../job-context';
import { copyAfterwards } from './copy-keepsakes';
import { MOST_UNREAD, readPlace } from './keep-own';

const ParamsSchema = z.object({
  /** The install whose files are taken. */
  from: z.string(),
});

/** What the disk calls the folder that the files are taken from. */
const OTHER = 'other';

/**
 * Takes the player's own files out of another folder of the game as a keepsake of this one: to look at beside what lies here,
 * and to be put in place, all or some. No file of either folder is touched.
 */
export const bringOwn: Kind = {
  async run(context) {
    const { from } = readParams(context, ParamsSchema);
    const [install, original] = await Promise.all([getInstall(context.install), getInstall(from)]);
    const [place] = await ownPlaces(original, (await getGame(original.game)).rules);
    const listed = await listOwn(place!);
    if ('failure' in listed) throw failureFromWire(listed.failure);
    const { source } = listed;
    const at = (path: string): string => besidePath(OTHER, [source.root, path].filter(Boolean).join('/'));
    const earlier = (await ownReadBefore(original))(IN_GAME);
    const { files, onDisk, unread } = await readPlace(context, { ...place!, onDisk: at }, listed, earlier);
    const keepsake: Keepsake = {
      ...{
        version: KEEPSAKE_VERSION,
        id: context.id,
        at: Date.now(),
        why: 'folder',
        what: original.title.slice(0, 200),
      },
      ...(await query('standing', original.id)),
      files: [...files],
      ...(unread.length > 0 && { unread: unread.slice(0, MOST_UNREAD) }),
    };
    context.phase(
      `Taking files of ${original.title}`,
      onDisk.size,
      [...onDisk.keys()].reduce((sum, key) => sum + keySize(key), 0),
    );
    const changes = await keeping(install, { [OTHER]: source.placeOf() });
    await changes.carryOut(context, { act: 'keepsake', install: install.id, keepsake, from: [...onDisk] });
    await copyAfterwards(context);
  },
  async undo(context) {
    const changes = await keeping(await getInstall(context.install));
    await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake: context.id });
  },
};
