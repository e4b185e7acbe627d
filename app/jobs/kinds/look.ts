import type { ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import { reckon } from '~/reckoning/client';
import { refreshServices } from '~/services/services';
import { getInstall, putLook } from '~/store/installs';
import type { JobContext, Kind } from '../job-context';
import { runCounted } from './batches';
import { sourceOf } from './source';

/** Brings manifests up to date. Offline, what the services said before is good enough to look at a folder. */
export async function readManifests(context: JobContext): Promise<void> {
  context.phase('Reading manifests', 0, 0);
  await refreshServices().catch((error: unknown) => {
    if (!isFailure(error, 'service/unreachable')) throw error;
  });
  await reckon('learn', context.install);
}

/** Takes a quick look: names, sizes, and the bytes of the few files that tell the known builds apart. */
export const look: Kind = {
  async run(context) {
    await readManifests(context);
    const install = await getInstall(context.install);
    const { reader, root, placeOf } = await sourceOf(install, install.tree);
    const at = Date.now();
    const entries = await reader.list(root);
    const prefix = root === '' ? 0 : root.length + 1;
    const wanted = new Set((await reckon('telling', install.id)).map(({ path }) => path));
    const files = entries.filter(({ path }) => wanted.has(path.slice(prefix)));
    const bytes = files.reduce((sum, { size }) => sum + size, 0);
    context.phase('Reading the telling files', files.length, bytes);
    const place = placeOf(files.map(({ path }) => path));
    const { keys } = await runCounted(context, {
      do: 'hash',
      place,
      files: files.map(({ path, size }) => ({ path, size })),
    });
    const read = files.flatMap(({ path, size }, i) =>
      keys[i] === undefined ? [] : [{ path: path.slice(prefix), size, key: keys[i] as ContentKey }],
    );
    const depots = await reckon('quickLook', install.id, {
      paths: entries.map(({ path }) => path.slice(prefix)),
      sizes: Float64Array.from(entries, ({ size }) => size),
      read: new Map(read.map(({ path, key }) => [path, key])),
    });
    await putLook({
      install: install.id,
      tree: install.tree,
      at,
      files: entries.length,
      bytes: entries.reduce((sum, { size }) => sum + size, 0),
      read: read.map(({ path, size }) => ({ path, size })),
      depots,
    });
  },
};
