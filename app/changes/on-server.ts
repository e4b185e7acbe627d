import { z } from 'zod';
import { type ChangeSet, type Direction, type Journalled, treeFolder } from '#core/changes';
import { Failure, failureFromWire, type WireFailure } from '#core/failure';
import { isBelow } from '#core/paths';
import { SERVED_TOKEN_HEADER, type ServedChange, ServedJournalSchema, ServedProgressSchema } from '#core/served';
import { layDownWays, readerAt, type ServedPlace, servedStore, servedValues } from '~/folders';
import { request } from '~/remote';
import type { Changes, Runner } from './changes-of';

const JournalsSchema = z.array(ServedJournalSchema);

/** Change sets of a served folder, which the server runs; the page hears how they go. */
export function onServer(place: ServedPlace): Changes {
  const { root, folder, token } = place;
  const headers = { [SERVED_TOKEN_HEADER]: token };
  const game = readerAt(place);
  const store = servedStore(place);

  async function journals(set?: string): Promise<Journalled[]> {
    const query = new URLSearchParams({ root, folder, ...(set !== undefined && { set }) });
    const answer = JournalsSchema.parse(await (await request(`/served/journal?${query}`, { headers })).json());
    return answer.map(({ way, ...rest }) => ({ ...rest, way }));
  }

  async function act(
    runner: Runner,
    set: string,
    what: Direction | 'let-go',
    plan: ChangeSet | undefined,
    signal: AbortSignal,
  ): Promise<void> {
    const change: ServedChange = { root, folder, set, act: what, ...(plan && { plan }) };
    const init = { method: 'POST', headers, body: JSON.stringify(change), signal };
    for await (const some of servedValues(await request('/served/change', init), ServedProgressSchema, signal)) {
      for (const value of some) {
        if ('done' in value) return;
        if ('code' in value) throw failureFromWire(value as WireFailure);
        runner.add(value.files, value.bytes);
      }
    }
    throw new Failure('service/unreachable', { url: '/served/change' });
  }

  const run: Changes['run'] = (runner, set, way, plan) =>
    runner.pausing((signal) => act(runner, set, way, plan, signal));

  return {
    arrivals: place,
    ways: layDownWays(place),
    disk: {
      current: async () => (await store.state()).current,
      async list(path = '') {
        const tree = treeFolder((await store.state()).current);
        if (path !== tree && !isBelow(path, tree)) return store.list(path);
        const files = await game.list(path.slice(tree.length + 1));
        return files.map((file) => ({ ...file, path: `${tree}/${file.path}` }));
      },
      // Of what lies beside the game, such as a storefront's record, nothing is known here.
      stat: async () => undefined,
      read: async (path) => {
        throw new Failure('folder/not-found', { path });
      },
      isReadOnly: async () => false,
    },
    read: async (set) => (await journals(set))[0],
    list: async () => (await journals()).toSorted((a, b) => a.set.at - b.set.at),
    run,
    dropFetched: () => store.dropArrived(),
    letGo: (runner, set) => runner.pausing((signal) => act(runner, set, 'let-go', undefined, signal)),
  };
}
