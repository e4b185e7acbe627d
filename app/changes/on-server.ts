import { z } from 'zod';
import { InspectedSchema, PLACES, treeFolder } from '#core/changes';
import type { Act } from '#core/contents';
import { Failure, failureFromWire, isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { isBelow } from '#core/paths';
import {
  SERVED_TOKEN_HEADER,
  type ServedBeside,
  type ServedChange,
  type ServedInspection,
  ServedProgressSchema,
} from '#core/served';
import { readerAt, type ServedPlace, servedStore, servedValues } from '~/folders';
import { request } from '~/remote';
import { type Changes, inspecting, type Runner, turnAct } from './changes-of';

/**
 * Change sets of a served folder, which the server runs; the page hears how they go.
 * @param beside folders elsewhere, by what the disk calls them in `beside/`
 */
export function onServer(place: ServedPlace, beside: ServedBeside = {}): Changes {
  const { root, folder, token } = place;
  const headers = { [SERVED_TOKEN_HEADER]: token };
  const game = readerAt(place);
  const store = servedStore(place);

  async function ask(runner: Runner, act: Act, signal: AbortSignal): Promise<void> {
    const change: ServedChange = { root, folder, act, beside };
    const init = { method: 'POST', headers, body: JSON.stringify(change), signal };
    for await (const some of servedValues(await request('/served/change', init), ServedProgressSchema, signal)) {
      for (const value of some) {
        if ('done' in value) return;
        if ('code' in value) throw failureFromWire(value);
        runner.add(value.files, value.bytes);
      }
    }
    throw new Failure('service/unreachable', { url: '/served/change' });
  }

  /** The folder in which a file of the game, or beside it, lies, and its path there. @throws Failure `folder/not-found` */
  async function whereabouts(path: string): Promise<{ folder: FolderReader; path: string }> {
    const [top, name = '', ...rest] = path.split('/');
    const other = top === PLACES.beside && Object.hasOwn(beside, name) ? beside[name] : undefined;
    if (other) return { folder: readerAt({ kind: 'served', ...other, token }), path: rest.join('/') };
    const tree = treeFolder((await store.state()).current);
    if (!isBelow(path, tree)) throw new Failure('folder/not-found', { path });
    return { folder: game, path: path.slice(tree.length + 1) };
  }

  const carryOut = (runner: Runner, act: Act): Promise<void> => runner.pausing((signal) => ask(runner, act, signal));

  return {
    arrivals: place,
    disk: {
      current: async () => (await store.state()).current,
      async list(path = '') {
        const tree = treeFolder((await store.state()).current);
        if (path !== tree && !isBelow(path, tree)) return store.list(path);
        const files = await game.list(path.slice(tree.length + 1));
        return files.map((file) => ({ ...file, path: `${tree}/${file.path}` }));
      },
      async stat(path) {
        const there = await whereabouts(path);
        try {
          const file = await there.folder.open(there.path);
          file.close();
          return { path, size: file.size, modified: NaN };
        } catch (error) {
          if (isFailure(error, 'folder/not-found')) return undefined;
          throw error;
        }
      },
      async read(path, start, end) {
        const there = await whereabouts(path);
        return there.folder.read(there.path, start, end);
      },
      async readOnlyOf(paths) {
        if (paths.length === 0) return new Set();
        const body = JSON.stringify({ root, folder, paths, beside });
        const answer = await request('/served/flags', { method: 'POST', headers, body });
        return new Set(z.array(z.string()).parse(await answer.json()));
      },
    },
    read: (set) => store.journal(set),
    run: (runner, set, way, plan, turning) => carryOut(runner, turnAct(set, way, plan, turning)),
    ...inspecting((runner, inspection) =>
      runner.pausing(async (signal) => {
        const asked: ServedInspection = { root, folder, inspection, beside };
        const init = { method: 'POST', headers, body: JSON.stringify(asked), signal };
        return InspectedSchema.parse(await (await request('/served/inspect', init)).json());
      }),
    ),
    carryOut,
  };
}
