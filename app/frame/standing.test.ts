import { expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import type { FrameView } from '~/queries/views';
import { standingOf } from './standing';

const view = (more: object): FrameView =>
  ({
    install: { target: { build: '2.9.4' } },
    builds: ['2.9.4', '3.0.0', '3.1.0'].map((label) => ({ label })),
    survey: { fresh: true },
    laid: true,
    likeliest: '2.9.4',
    lostNow: 0,
    due: [],
    ...more,
  }) as unknown as FrameView;
const held = { build: '2.9.4', isKnown: true, drift: 0, loose: [] };
const visit = { at: 0, builds: [asBuild('2.9.4')] };
const words = (...given: Parameters<typeof standingOf>): string[] => standingOf(...given).map((fact) => fact.words);

it('a person who comes back is told what is held and what came out since', () => {
  expect(words(view({ held }), visit)).toEqual([
    '2.9.4 is held. Nothing had drifted at the last check.',
    '2 builds came out since: 3.0.0, 3.1.0.',
  ]);
  expect(words(view({ held }), { ...visit, builds: ['2.9.4', '3.0.0', '3.1.0'].map(asBuild) })[1]).toBe(
    'No build has come out since.',
  );
});

it.each([
  [{ held: { ...held, loose: ['lock'] } }, '2.9.4 is held, but its record was unlocked at the last check.'],
  [{ held: { ...held, drift: 2 } }, '2.9.4 is held, and 2 files drifted.'],
  [{ held: { ...held, drift: undefined } }, '2.9.4 is held. The folder has changed since its last check.'],
  [
    { held: { ...held, isKnown: false, drift: undefined } },
    '2.9.4 is held, but not all of it is known here: it cannot be checked.',
  ],
  [{ held: undefined }, 'Nothing is held: the storefront may update this folder.'],
  [{ survey: undefined }, 'This folder has not been checked yet.'],
])('%o: %s', (more, expected) => {
  const [first] = standingOf(view(more), undefined);
  expect(first).toMatchObject({ words: expected, tone: 'attention' });
});

it('what waits is told with where to go', () => {
  const facts = standingOf(view({ held: undefined, laid: false, lostNow: 3 }), undefined);
  expect(facts.map(({ stage }) => stage)).toEqual(['hold', 'choose', 'assemble']);
});

it('mods that are due back from the bench are named, the first few', () => {
  const words = (...due: string[]): string | undefined =>
    standingOf(view({ due }), undefined).find(({ words: one }) => one.startsWith('Due'))?.words;
  expect(words()).toBeUndefined();
  expect(words('Fog')).toBe('Due back from the bench: Fog.');
  expect(words('a', 'b', 'c', 'd', 'e', 'f')).toBe('Due back from the bench: a, b, c, d and 2 more.');
});

it('mods in folders that are followed are named, with where to go', () => {
  const followed = [['Fog', 'Rain'], []].map((waiting, i) => ({
    ...{ name: `own${'ab'[i]}`, title: 'kept', each: true, mods: [], waiting },
    at: { kind: 'served', root: '/games', folder: 'kept' } as const,
  }));
  const all = standingOf(view({ install: { ...view({}).install, followed } }), undefined);
  expect(all.find(({ stage }) => stage === 'shelf')).toMatchObject({
    words: 'New or changed in folders that you follow: Fog, Rain.',
    tone: 'attention',
  });
  expect(standingOf(view({}), undefined).some(({ stage }) => stage === 'shelf')).toBe(false);
});
