import type { BuildLabel } from '#core/builds';
import { failureToWire, type WireFailure } from '#core/failure';
import { ownName } from '#core/keepsakes';
import * as commands from '~/commands';
import { jobs } from '~/jobs';
import { query } from '~/queries';
import { servedRoots } from '~/remote';
import { getInstall, listJobs, updateInstall } from '~/store';

/*
 * What the pages offer to a person, without their drawing: bench/storm.mjs acts by it, and asks it what they say. Nothing here decides
 * anything: what a person would tick comes as a list of numbers, taken in turn.
 */

/** Numbers from 0 up to, and without, 1, as chance has them. */
type Chances = readonly number[];

type Way = 'served' | 'browser' | 'picked';

/** The folder that was dropped on the page last. */
let dropped: Promise<FileSystemDirectoryHandle> | undefined;
addEventListener('dragover', (event) => event.preventDefault());
addEventListener('drop', (event) => {
  event.preventDefault();
  dropped = event.dataTransfer!.items[0]!.getAsFileSystemHandle!() as Promise<FileSystemDirectoryHandle>;
});

const one = <T>(some: readonly T[], by: number): T | undefined => some[Math.floor(by * some.length)];

async function ended(kind: Parameters<typeof jobs.start>[0], id: string, params: unknown = {}): Promise<void> {
  await jobs.ended(await jobs.start(kind, id, params));
}

/** Turns changes as the dialog does, with a choice for each file that it asks about. */
async function turn(id: string, sets: readonly string[], way: 'on' | 'back', chances: Chances): Promise<void> {
  const ahead = await commands.lookAhead(id, sets, way);
  const theirs = ahead.met.flatMap(({ path, choices }, i) =>
    choices.includes('theirs') && chances[i % chances.length]! < 0.5 ? [path] : [],
  );
  const along = ahead.partings.flatMap(({ path, leaving }, i) =>
    leaving && chances[(i + 3) % chances.length]! < 0.7 ? [path] : [],
  );
  await jobs.ended(await commands.turnChanges(id, ahead, new Set(theirs), along));
}

/** Acts by name; each is done where the pages offer it, and says otherwise that they do not. */
const ACTS = {
  async survey(id: string) {
    await ended('survey', id, { trustEarlier: true });
  },
  async 'survey-all'(id: string) {
    await ended('survey', id);
  },
  async choose(id: string, [by]: Chances) {
    const { index, survey } = await query('frame', id);
    const { label } = one(index.builds, by!)!;
    if (!survey) return 'not-offered';
    const target = await query('decide', id, label);
    await updateInstall(id, (now) => ({ ...now, target }));
    return undefined;
  },
  async fetch(id: string) {
    const { target } = await getInstall(id);
    if (!target || !(await query('fetchView', id))) return 'not-offered';
    await ended('fetch', id, { target });
    return undefined;
  },
  async 'lay-down'(id: string, [by]: Chances) {
    const { target } = await getInstall(id);
    const view = await query('assemble', id);
    if (!target || !view?.fresh || view.laid || view.counts.missing > 0) return 'not-offered';
    await ended('assemble', id, { target, way: one(view.ways, by!)!.way, without: [] });
    return undefined;
  },
  async hold(id: string) {
    const { draft, hold } = await query('holdView', id);
    if (!draft || hold) return 'not-offered';
    await commands.holdInstall(id);
    return undefined;
  },
  async release(id: string) {
    if (!(await query('holdView', id)).hold) return 'not-offered';
    await commands.letHoldGo(id);
    return undefined;
  },
  async 'put-right'(id: string) {
    const { repair } = await query('holdView', id);
    const { survey } = await query('frame', id);
    if (!repair || !survey?.fresh) return 'not-offered';
    const target = { ...repair.target, decidedBy: 'hold-sheet', at: Date.now() };
    if (repair.toFetch > 0) await ended('fetch', id, { target });
    await ended('assemble', id, { target, way: 'in-place' });
    return undefined;
  },
  async back(id: string, [by, deep, ...chances]: Chances) {
    const { history = [] } = (await query('storeOfInstall', id)) ?? {};
    const change = one(
      history.filter(({ state, elsewhere, letGoAt }) => state === 'made' && !elsewhere && letGoAt === undefined),
      by!,
    );
    if (!change) return 'not-offered';
    const since = history.slice(0, history.indexOf(change));
    const inEffect = since.flatMap((other) => (other.state === 'made' && !other.elsewhere ? [other.id] : []));
    await turn(id, [...(deep! < 0.3 ? inEffect : change.after), change.id], 'back', chances);
    return undefined;
  },
  async on(id: string, [by, ...chances]: Chances) {
    const { history = [] } = (await query('storeOfInstall', id)) ?? {};
    const change = one(
      history.filter(
        ({ state, elsewhere, after, letGoAt }) =>
          state === 'taken-back' && !elsewhere && after.length === 0 && letGoAt === undefined,
      ),
      by!,
    );
    if (!change) return 'not-offered';
    await turn(id, [change.id], 'on', chances);
    return undefined;
  },
  async 'let-go'(id: string, [by, tick]: Chances) {
    const { history = [] } = (await query('storeOfInstall', id)) ?? {};
    const offered = history.filter(
      ({ state, keeps }) => (state === 'made' || state === 'taken-back') && keeps.files > 0,
    );
    const change = one(offered, by!);
    const loss = change && (await commands.lookAtLoss(id, change.id));
    if (!loss) return 'not-offered';
    const keep = loss.lost.filter((_, i) => (tick! + i * 0.37) % 1 < 0.6);
    await jobs.ended(await commands.deleteKept(id, loss, new Set(keep.map(({ at }) => at))));
    // What the dialog named, and the person did not tick.
    return { gone: loss.lost.filter((file) => !keep.includes(file)).map(({ key }) => key) };
  },
  async keepsake(id: string) {
    await ended('keepsake', id);
  },
  async 'put-back'(id: string, [by, since]: Chances) {
    const head = one((await query('keepsakes', id)).keepsakes, by!);
    if (!head) return 'not-offered';
    const { keepsake } = await query('keepsakeView', id, head.id);
    await ended('put-back', id, {
      ...{ keepsake: head.id, files: keepsake.files.map(ownName) },
      withoutSince: since! < 0.3,
    });
    return undefined;
  },
  async profile(id: string, [by, mods]: Chances) {
    const profiles = await query('profilesView', id);
    if (profiles.length < 3) {
      await commands.makeProfile(id, {
        ...{ title: `P${profiles.length}`, build: undefined, mods: mods! < 0.5 ? 'none' : 'as-here' },
        ...{
          sharing: { saves: 'own', settings: 'shared', content: 'shared', presets: 'shared' },
          startsEmpty: by! < 0.5,
        },
      });
      return undefined;
    }
    const { profile } = await getInstall(id);
    const other = one(
      profiles.filter((one) => one.id !== profile),
      by!,
    )!;
    await ended('switch-profile', id, { profile: other.id });
    return undefined;
  },
  async clean(id: string) {
    const { survey } = await query('frame', id);
    if (!survey?.fresh) return 'not-offered';
    await ended('clean', id, { leave: [] });
    return undefined;
  },
  /** As the page does by itself soon after it has opened. */
  async look(id: string) {
    await commands.lookForDrift(id);
    const going = (await listJobs()).filter(({ install, state }) => install === id && state === 'running');
    for (const job of going) await jobs.ended(job.id);
  },
};
export type Act = keyof typeof ACTS;

/** How an act went. */
type Went =
  | { readonly ok: true; readonly offered: boolean; readonly gone?: readonly string[] }
  | { readonly ok: false; readonly failure: WireFailure };

async function attempt(work: () => Promise<unknown>): Promise<Went> {
  try {
    const said = await work();
    const gone = typeof said === 'object' && said !== null ? (said as { gone: string[] }).gone : undefined;
    return { ok: true, offered: said !== 'not-offered', ...(gone && { gone }) };
  } catch (error) {
    return { ok: false, failure: failureToWire(error) };
  }
}

const storm = {
  /**
   * Adds the game with its sources, and its folder: one that the server serves, one that was dropped on the page, or a copy of the former
   * on the browser's own disk.
   * @returns the install's id
   */
  async setUp(game: string, source: string, token: string, way: Way, folder: string): Promise<string> {
    const [root] = await servedRoots(token);
    const { id } = await commands.importGame(game, 'game.json');
    await commands.addAddress(id, 'builds', `${source}/index.json`);
    await commands.addAddress(id, 'mods', `${source}/mods.json`);
    const ownership = { language: '', addOns: [], optional: [] };
    const about = { game: id, title: 'Storm', folder, ownership, weights: [] };
    if (way === 'picked') {
      const handle = (await dropped)!;
      return commands.bringInOffer({ kind: 'picked', name: folder, handle }, about);
    }
    const served = await commands.bringInOffer({ kind: 'served', name: folder, root: root!, folder }, about);
    if (way === 'served') return served;
    const to = { title: 'Copy', to: 'browser-disk', withOwn: true, moves: false } as const;
    return commands.copyInstall(await getInstall(served), to);
  },

  async knows(token: string): Promise<void> {
    await servedRoots(token);
    await jobs.adopt();
  },

  act: (name: Act, id: string, chances: Chances): Promise<Went> => attempt(async () => ACTS[name](id, chances)),

  /** Jobs that have failed, newest first: a row of the tray each. */
  async failed(id: string): Promise<string[]> {
    const all = (await listJobs()).filter(({ install, state }) => install === id && state === 'failed');
    return all.toSorted((a, b) => b.startedAt - a.startedAt).map((job) => job.id);
  },
  resume: (job: string): Promise<Went> => attempt(async () => (await jobs.again(job), jobs.ended(job))),
  cancel: (job: string): Promise<Went> => attempt(async () => (await jobs.cancel(job), jobs.ended(job))),
  /** Waits until nothing works on the folder any more. */
  async still(id: string): Promise<void> {
    for (;;) {
      const going = (await listJobs()).filter(
        ({ install, state }) => install === id && ['running', 'waiting', 'paused'].includes(state),
      );
      if (going.length === 0) return;
      await Promise.all(going.map((job) => jobs.ended(job.id).catch(() => undefined)));
    }
  },
  /** Continues a change that is between two states, or takes it back, as the notice offers. */
  settle: (id: string, set: string, way: 'on' | 'back', chances: Chances): Promise<Went> =>
    attempt(() => turn(id, [set], way, chances)),

  /** What the pages say of the folder, as data. */
  async claims(id: string) {
    const [frame, assemble, hold, proof] = [
      await query('frame', id),
      await query('assemble', id),
      await query('holdView', id),
      await query('proof', id),
    ];
    const { keepsakes } = await query('keepsakes', id);
    const rows = await Promise.all(
      keepsakes.slice(0, 4).map(async (head) => {
        const view = await query('keepsakeView', id, head.id);
        return view.rows.map(({ path, key, does }) => ({ path, key, does }));
      }),
    );
    return {
      fresh: frame.survey?.fresh === true,
      likeliest: frame.likeliest as BuildLabel | undefined,
      departures: frame.survey?.departures,
      laid: frame.laid,
      target: frame.install.target && { build: frame.install.target.build, releases: frame.install.target.releases },
      toFetch: frame.toFetch,
      unfinished: frame.unfinished.map((change) => change.id),
      held: frame.held,
      heldReleases: hold.hold?.sheet.releases.map(({ mod, release }) => [mod, release] as const),
      departs: hold.hold ? hold.departures.length : undefined,
      assemble: assemble && { laid: assemble.laid, fresh: assemble.fresh, missing: assemble.counts.missing },
      proof: proof && { fresh: proof.fresh, build: proof.build, wrong: proof.proof.wrong.length },
      keepsakes: rows,
    };
  },
};
export type Storm = typeof storm;
Object.assign(globalThis, { storm });
