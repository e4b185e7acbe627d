import { contentKey } from '#core/digest';
import { asPublished } from '#core/survey';
import { query } from '~/queries';
import { getInstall, putLook } from '~/store';
import { type JobContext, type Kind, unlessDefect } from '../job-context';
import { runCounted } from './batches';
import { listTree } from './hash-tree';
import { sourceOf } from '~/places';

/** Brings manifests up to date. What a source that fails said before is good enough to look at a folder. */
export async function readManifests(context: JobContext): Promise<void> {
  context.phase('Reading manifests', 0, 0);
  const { game } = await getInstall(context.install);
  await query('refreshSources', game).catch(unlessDefect);
  await query('learn', context.install);
}

/** Takes a quick look: names, sizes, and the bytes of the few files that tell the known builds apart. */
export const look: Kind = {
  async run(context) {
    await readManifests(context);
    const install = await getInstall(context.install);
    const source = await sourceOf(install, install.tree);
    const at = Date.now();
    const { paths, sizes } = await listTree(context, source);
    const wanted = new Set((await query('distinguishing', install.id)).map(({ path }) => path));
    const pieceSizeOf = asPublished(await query('pieceSizes', install.id));
    const files = paths.flatMap((path, i) => {
      const size = sizes[i]!;
      return wanted.has(path) ? [{ path, size, pieceSize: pieceSizeOf(path, size) }] : [];
    });
    const prefix = source.root === '' ? '' : `${source.root}/`;
    const wishes = files.map((file) => ({ ...file, path: prefix + file.path }));
    context.phase(
      'Reading the sampled files',
      files.length,
      files.reduce((sum, { size }) => sum + size, 0),
    );
    const place = source.placeOf(wishes.map(({ path }) => path));
    const { contents } = await runCounted(context, { do: 'hash', place, files: wishes });
    context.add(files.length, 0);
    const read = files.flatMap(({ path, pieceSize }, i) => {
      const content = contents[i];
      return content ? [{ path, size: content.size, key: contentKey(content.size, content.pieces, pieceSize) }] : [];
    });
    const depots = await query('quickLook', install.id, {
      paths,
      sizes,
      read: new Map(read.map(({ path, key }) => [path, key])),
    });
    await putLook({
      install: install.id,
      tree: install.tree,
      at,
      files: paths.length,
      bytes: sizes.reduce((sum, size) => sum + size, 0),
      read: read.map(({ path, size }) => ({ path, size })),
      depots,
    });
  },
};
