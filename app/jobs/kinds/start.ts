import { isFailure } from '#core/failure';
import { sourceOf } from '~/places';
import { startGame } from '~/remote';
import { addTrial, dropReadings, getGame, getInstall } from '~/store';
import type { Kind } from '../job-context';
import { hashTree } from './hash-tree';

/** Starts the game on the folder as it lies now and keeps what came of it, as evidence. */
export const start: Kind = {
  undo: (context) => dropReadings(context.id),
  async run(context) {
    const install = await getInstall(context.install);
    const { loadOrder } = (await getGame(install.game)).rules;
    const found = await hashTree(context, install.tree, 'The game reads its folder');
    const { reader, root } = await sourceOf(install, install.tree);
    const list =
      loadOrder === undefined
        ? new Uint8Array(0)
        : await reader.read(root === '' ? loadOrder : `${root}/${loadOrder}`).catch((error: unknown) => {
            if (isFailure(error, 'folder/not-found')) return new Uint8Array(0);
            throw error;
          });
    const answer = await startGame({
      files: found.paths.map((path, i) => ({ path, key: found.keys[i]! })),
      loadOrder: new TextDecoder().decode(list),
    });
    await addTrial({ install: install.id, at: Date.now(), answer });
    await dropReadings(context.id);
  },
};
