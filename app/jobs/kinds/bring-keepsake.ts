import { z } from 'zod';
import { makeReference } from '#core/contents';
import { keySize } from '#core/digest';
import { KEEPSAKE_VERSION, type Keepsake, keepsakeReference, KeepsakeSchema } from '#core/keepsakes';
import { keeping } from '~/changes';
import { platformSha256 } from '~/remote';
import { getInstall } from '~/store';
import { type Kind, readParams, uncounted } from '../job-context';
import { runCounted } from './batches';
import { copyAfterwards } from './copy-keepsakes';

const ParamsSchema = z.object({
  /** The archive; the browser keeps a reference to it, not its bytes. */
  from: z.instanceof(File),
  /** Its files, with where each belongs. */
  files: KeepsakeSchema.shape.files.element.extend({ as: z.string() }).array().readonly(),
  /** What the archive says of the folder that it was made in. */
  facts: KeepsakeSchema.pick({ build: true, profile: true, mods: true }),
});

/** Takes the files of an archive into the store as a keepsake: to look at, and to be put back. No file of the game is touched. */
export const bringKeepsake: Kind = {
  async run(context) {
    const { from, files, facts } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const changes = await keeping(install);
    const { id } = context;
    const kept = files.map(({ as: _, ...file }) => file);
    const at = Date.now();
    const keepsake: Keepsake = {
      ...{ version: KEEPSAKE_VERSION, id, at, why: 'archive', what: from.name.slice(0, 200), ...facts },
      files: kept,
    };
    const bytes = kept.reduce((sum, { key }) => sum + keySize(key), 0);
    context.phase('Taking files out of the archive', files.length, bytes);
    const reason = { kind: 'keepsake', install: install.id, keepsake: id } as const;
    const keys = kept.map(({ key }) => key);
    const reference = await makeReference({ id: keepsakeReference(id), at, reason }, keys, { sha256: platformSha256 });
    // Named before they come, so that nobody clears them away meanwhile.
    await changes.carryOut(uncounted(context), { act: 'refer', reference });
    const unpacked = [
      ...new Map(files.map(({ as, key, modified }) => [key, { path: as, key, modified: modified ?? 0 }])),
    ];
    await runCounted(context, {
      do: 'unpack',
      isBag: true,
      from,
      files: unpacked.map(([, file]) => file),
      to: changes.arrivals,
    });
    await changes.carryOut(uncounted(context), { act: 'keepsake', install: install.id, keepsake, from: [] });
    await copyAfterwards(context);
  },
  async undo(context) {
    const changes = await keeping(await getInstall(context.install));
    await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake: context.id });
  },
};
