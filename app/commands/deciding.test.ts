import { expectTold, isForNobody } from './testing/told';
import { GAME, INSTALL, layOut, started } from '../jobs/testing/way';
import { beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import type { OrderRule } from '#core/mods';
import { ALL_SHARED } from '#core/profiles';
import { choose } from '~/queries/choosing';
import { shelf } from '~/queries/shelf';
import { getGame } from '~/store/games';
import { listTrials } from '~/store/holds';
import { getInstall, updateInstall } from '~/store/installs';
import { listShelved } from '~/store/shelved';
import { listProfiles } from '~/store/profile-records';
import { FIRST_PROFILE, type Install } from '~/store/records';
import { forgetSaid, forgetTried, noteSaid, noteTried } from './evidence';
import { benchMods, insistOn, lookForReleases, offBench, pinMod, weighMod } from './mending';
import { answerStart, beginNarrowing, endNarrowing, takeAnswersBack } from './narrowing';
import { addOrderRule, dropOrderRule, orderWith, setOrder } from './order';
import { changeProfile, copyProfileOf, forgetProfileOf, makeProfile, profileText } from './profiles';
import { takeOffShelf, wantReleases, writeOnShelf } from './shelf';
import { noteStandingSeen, noteVisit } from './visits';

/* What a person decides, as it comes to stand in the store. Nothing in a folder changes by it. */

const [ROSTERS, SKY, FUEL] = ['crew-rosters', 'night-sky', 'honest-fuel'].map(asMod) as [never, never, never];
const BUILD = asBuild('2.9.4');
let first: Install;
const now = (): Promise<Install> => getInstall(INSTALL);

beforeAll(async () => {
  await layOut();
  first = await now();
});
beforeEach(async () => {
  await updateInstall(INSTALL, () => first);
  started.length = 0;
});

describe('a mod', () => {
  it('that is weighed keeps its place among the others, a new one comes last, and one without a weight goes', async () => {
    const before = first.weights.map(([mod]) => mod);
    expect(before.indexOf(ROSTERS)).toBeGreaterThan(0);
    await weighMod(INSTALL, ROSTERS, 'spare');
    expect((await now()).weights.map(([mod]) => mod)).toEqual(before);
    expect(new Map((await now()).weights).get(ROSTERS)).toBe('spare');
    const stranger = asMod('a-stranger');
    await weighMod(INSTALL, stranger, 'must');
    expect((await now()).weights.at(-1)).toEqual([stranger, 'must']);
    await weighMod(INSTALL, stranger, undefined);
    expect((await now()).weights.map(([mod]) => mod)).toEqual(before);
  });

  it('is pinned or insisted on, never both, and one mod’s pin leaves the others’', async () => {
    await pinMod(INSTALL, ROSTERS, '5.1');
    await pinMod(INSTALL, SKY, '1.0');
    await insistOn(INSTALL, ROSTERS, '6.0');
    expect([(await now()).pins, (await now()).insisted]).toEqual([[[SKY, '1.0']], [[ROSTERS, '6.0']]]);
    await pinMod(INSTALL, ROSTERS, '5.1');
    expect((await now()).insisted).toEqual([]);
    await pinMod(INSTALL, ROSTERS, undefined);
    expect((await now()).pins).toEqual([[SKY, '1.0']]);
  });

  it('on the bench has its files on the shelf first, says why and until when, and stands there once', async () => {
    const until = { kind: 'build', build: asBuild('3.1.1') } as const;
    await benchMods(INSTALL, [SKY, FUEL], { reason: 'crashes', until });
    expect(started.map(({ kind }) => kind)).toEqual(['shelve']);
    const { bench } = await now();
    expect(bench).toMatchObject([
      { mod: SKY, reason: 'crashes', until },
      { mod: FUEL, reason: 'crashes', until },
    ]);
    expect(bench![0]!.release).toBeDefined();
    await benchMods(INSTALL, [SKY], { reason: 'still', until: undefined });
    expect((await now()).bench!.map(({ mod, reason }) => [mod, reason])).toEqual([
      [FUEL, 'crashes'],
      [SKY, 'still'],
    ]);
    expect((await now()).bench![1]).not.toHaveProperty('until');
    await offBench(INSTALL, [SKY]);
    expect((await now()).bench!.map(({ mod }) => mod)).toEqual([FUEL]);
  });

  it('is taken off the shelf with what is known of it, and keeps a person’s words until then', async () => {
    await benchMods(INSTALL, [SKY], { reason: 'later', until: undefined });
    const ofSky = async () => (await shelf(INSTALL)).releases.filter(({ mod }) => mod === SKY);
    const [shelved] = await ofSky();
    await writeOnShelf(GAME, SKY, shelved!.version, '  the good one ');
    expect(await ofSky()).toMatchObject([{ missing: 0, words: 'the good one' }]);
    expect((await listShelved(GAME)).map(({ mod }) => mod)).toContain(SKY);
    await takeOffShelf(INSTALL, await ofSky());
    expect(started.at(-1)).toMatchObject({
      kind: 'tend-store',
      params: { act: 'drop', reference: shelved!.reference },
    });
    expect(await ofSky()).toEqual([]);
    expect((await listShelved(GAME)).map(({ mod }) => mod)).not.toContain(SKY);
  });

  it('of which nothing lies in the folder is on the bench without a job', async () => {
    await benchMods(INSTALL, [asMod('a-stranger')], { reason: 'later', until: undefined });
    expect(started).toEqual([]);
    expect((await now()).bench).toMatchObject([{ mod: 'a-stranger', reason: 'later' }]);
  });
});

it('releases that are wanted are the folder’s mods and its target’s, the newest of each, in place of others', async () => {
  const { target, weights } = first;
  const before = new Map(target!.releases).get(ROSTERS);
  expect(before).toBeDefined();
  await updateInstall(INSTALL, (install) => ({
    ...install,
    weights: weights.filter(([mod]) => mod !== ROSTERS),
    target: { ...target!, order: [SKY] },
  }));
  await wantReleases(INSTALL, [
    [ROSTERS, '6.0'],
    [ROSTERS, '5.1'],
  ]);
  const after = await now();
  expect(new Map(after.weights).get(ROSTERS)).toBe('want');
  expect(new Map(after.target!.releases).get(ROSTERS)).toBe('6.0');
  expect(after.target!.releases.filter(([mod]) => mod === ROSTERS)).toHaveLength(1);
  expect(after.target!.order).toEqual([SKY, ROSTERS]);
  expect(after.target!.releases.filter(([mod]) => mod !== ROSTERS)).toEqual(
    target!.releases.filter(([mod]) => mod !== ROSTERS),
  );
  await updateInstall(INSTALL, ({ target: _, ...install }) => install);
  await wantReleases(INSTALL, [[SKY, '1.0']]);
  expect((await now()).target).toBeUndefined();
});

it('sources that say what they said before have nothing new', async () => {
  expect(await lookForReleases(GAME)).toEqual([]);
});

describe('an order', () => {
  const target = () => now().then((install) => install.target!);

  it('keeps others behind the ones that they stood behind', () => {
    const [a, b, c, d] = ['a', 'b', 'c', 'd'].map(asMod) as [never, never, never, never];
    expect(orderWith([a, b, c], [c, a])).toEqual([c, a, b]);
    expect(orderWith(undefined, [b, a])).toEqual([b, a]);
    expect(orderWith([a], [d, a])).toEqual([d, a]);
  });

  it('that is set is the target’s too, as far as what mods need allows, and is given up again', async () => {
    const { releases, order: before } = { order: undefined, ...(await target()) };
    const mods = releases.map(([mod]) => mod);
    await setOrder(INSTALL, [mods.at(-1)!, mods.at(-2)!]);
    expect((await now()).order).toEqual([mods.at(-1), mods.at(-2)]);
    const { order } = await target();
    expect(order!.indexOf(mods.at(-1)!)).toBeLessThan(order!.indexOf(mods.at(-2)!));
    await setOrder(INSTALL, undefined);
    expect(await now()).not.toHaveProperty('order');
    expect((await target()).order).not.toEqual(before);
  });

  it('follows rules, of which the one that was said last counts most, and each stands once', async () => {
    const mods = (await target()).releases.map(([mod]) => mod).filter((mod) => mod === SKY || mod === FUEL);
    const [early, late] = mods as [never, never];
    const rule: OrderRule = { goes: 'after', mod: early, other: late };
    const other: OrderRule = { goes: 'after', mod: late, other: early };
    await addOrderRule(INSTALL, rule);
    await addOrderRule(INSTALL, other);
    expect((await now()).orderRules).toEqual([other, rule]);
    await addOrderRule(INSTALL, rule);
    expect((await now()).orderRules).toEqual([rule, other]);
    await dropOrderRule(INSTALL, rule);
    expect((await now()).orderRules).toEqual([other]);
  });

  it('that a hold sheet decided stays as the sheet has it', async () => {
    const mods = first.target!.releases.map(([mod]) => mod);
    await updateInstall(INSTALL, (install) => ({
      ...install,
      target: { ...install.target!, decidedBy: 'hold-sheet', order: mods },
    }));
    await setOrder(INSTALL, [mods.at(-1)!, mods[0]!]);
    expect((await target()).order).toEqual(mods);
  });
});

describe('a profile', () => {
  const all = () => listProfiles(INSTALL);
  const NEW = { title: 'Calm', build: undefined, mods: 'as-here', sharing: ALL_SHARED, startsEmpty: false } as const;

  it('begins with what is decided here, or without mods at a build', async () => {
    await pinMod(INSTALL, ROSTERS, '5.1');
    await updateInstall(INSTALL, (one) => ({ ...one, evidence: 'likely' }));
    const id = await makeProfile(INSTALL, NEW);
    expect(JSON.parse((await profileText(INSTALL, id)).text)).toMatchObject({
      pins: { [ROSTERS]: '5.1' },
      evidence: 'likely',
    });
    const { weights, pins, target } = await now();
    const made = (await all()).find((one) => one.id === id)!;
    expect(made).toMatchObject({ title: 'Calm', weights, pins, target, sharing: ALL_SHARED });
    expect(made).not.toHaveProperty('startsEmpty');
    const bare = await makeProfile(INSTALL, { ...NEW, mods: 'none', build: asBuild('3.0.0'), startsEmpty: true });
    expect((await all()).find((one) => one.id === bare)).toMatchObject({
      ...{ weights: [], modFree: true, startsEmpty: true },
      target: { build: '3.0.0', releases: [] },
    });
    const other = await makeProfile(INSTALL, { ...NEW, build: asBuild('3.1.1') });
    const chosen = (await choose(INSTALL)).choices.find(({ build }) => build === '3.1.1')!;
    const { target: wanted } = (await all()).find((one) => one.id === other)!;
    expect([wanted!.build, new Map(wanted!.releases)]).toEqual(['3.1.1', new Map(chosen.runs)]);
    for (const gone of [id, bare, other]) await forgetProfileOf(INSTALL, gone);
    expect((await all()).map((one) => one.id)).toEqual([FIRST_PROFILE]);
  });

  it('is copied, called otherwise, and gone on with, and the one that counts cannot be forgotten', async () => {
    const copy = await copyProfileOf(INSTALL, FIRST_PROFILE, 'Second');
    expectTold();
    await changeProfile(INSTALL, copy, { title: 'Third', sharing: { ...ALL_SHARED, saves: 'own' } });
    expectTold();
    const [of, made] = [FIRST_PROFILE, copy].map(async (id) => (await all()).find((one) => one.id === id)!);
    expect(await made).toEqual({ ...(await of), id: copy, title: 'Third', sharing: { ...ALL_SHARED, saves: 'own' } });
    expect((await profileText(INSTALL, copy)).name).toBe('Third.profile.json');
    await forgetProfileOf(INSTALL, FIRST_PROFILE);
    expect((await all()).map(({ title }) => title)).toEqual(['First', 'Third']);
    await forgetProfileOf(INSTALL, copy);
    for (const gone of [forgetProfileOf(INSTALL, copy), copyProfileOf(INSTALL, copy, 'x'), profileText(INSTALL, copy)])
      await expect(gone).rejects.toMatchObject({ code: 'store/failed', facts: { id: copy } });
  });
});

describe('what a person has seen or heard of mods', () => {
  it('is noted as a trial, and taken back as a whole or of one mod', async () => {
    const tried = [
      { mod: SKY, release: '1.0', ran: true },
      { mod: FUEL, release: '2.0', ran: false },
    ];
    await noteTried(INSTALL, BUILD, tried);
    const [trial] = (await listTrials(INSTALL)).filter(({ answer }) => 'told' in answer);
    expect(trial!.answer).toMatchObject({ version: BUILD, outcome: 'title', mods: tried });
    await forgetTried(INSTALL, trial!.at, SKY);
    const [left] = (await listTrials(INSTALL)).filter(({ answer }) => 'told' in answer);
    expect(left!.answer).toMatchObject({ mods: [tried[1]] });
    await forgetTried(INSTALL, trial!.at);
    expect((await listTrials(INSTALL)).filter(({ answer }) => 'told' in answer)).toEqual([]);
  });

  it('is written down of the game, each by itself', async () => {
    const said = { mod: SKY, release: '1.0', build: BUILD, runs: true, text: 'Fine here' };
    await noteSaid(GAME, said);
    await noteSaid(GAME, { ...said, text: 'Not here' });
    const all = (await getGame(GAME)).said!;
    expect(all.map(({ text }) => text)).toEqual(['Fine here', 'Not here']);
    await forgetSaid(GAME, all[0]!.id);
    expect((await getGame(GAME)).said!.map(({ text }) => text)).toEqual(['Not here']);
    await forgetSaid(GAME, all[1]!.id);
  });
});

it('what breaks the game is narrowed down by answers, which are taken back from one on', async () => {
  const view = { build: BUILD, mods: [{ mod: SKY, release: '1.0', weight: 0.5 }] } as never;
  await beginNarrowing(INSTALL, view, { kind: 'crash' });
  expect((await now()).narrowing).toMatchObject({
    ...{ build: BUILD, symptom: { kind: 'crash' }, starts: [], releases: [[SKY, '1.0']], weights: [[SKY, 0.5]] },
  });
  for (const outcome of ['fails', 'runs', 'cannot-tell'] as const) await answerStart(INSTALL, [SKY], outcome);
  await takeAnswersBack(INSTALL, 1);
  expect((await now()).narrowing!.starts).toMatchObject([{ on: [SKY], outcome: 'fails' }]);
  await endNarrowing(INSTALL);
  expect(await now()).not.toHaveProperty('narrowing');
  await answerStart(INSTALL, [SKY], 'fails');
  expect(await now()).not.toHaveProperty('narrowing');
});

it('who comes back after a week is told from which visit, until it was seen; who was here lately is not', async () => {
  const day = 86_400_000;
  vi.useFakeTimers({ toFake: ['Date'], now: 100 * day });
  try {
    expect(await noteVisit(INSTALL, [BUILD])).toBeUndefined();
    vi.setSystemTime(107 * day);
    expect(await noteVisit(INSTALL, [BUILD])).toBeUndefined();
    vi.setSystemTime(114 * day + 1);
    const visit = { at: 107 * day, builds: [BUILD] };
    expect(await noteVisit(INSTALL, [asBuild('3.2.0')])).toEqual(visit);
    vi.setSystemTime(115 * day);
    expect(await noteVisit(INSTALL, [BUILD])).toEqual(visit);
    await noteStandingSeen(INSTALL);
    expect(await noteVisit(INSTALL, [BUILD])).toBeUndefined();
  } finally {
    vi.useRealTimers();
  }
  // When somebody was here is shown nowhere but to who comes back.
  isForNobody();
});
