import { expect, it } from 'vitest';
import { asBuild, type BuildLabel } from '#core/builds';
import { type ContentKey, contentKey } from '#core/digest';
import type { SurveyRow, Trees } from '#core/survey';
import { digest } from '../testing/digest';
import { catalogueOf } from '../testing/mods';
import { driftCauses, unaccepted } from './index';

const keyOf = (text: string): ContentKey => contentKey(1, [digest(text)]);
const tree = (files: Readonly<Record<string, string>>) =>
  Object.entries(files).map(([path, text]) => ({ path, size: 1, key: keyOf(text), pieces: [], sha256: digest(text) }));
const trees = new Map<BuildLabel, unknown>([
  [asBuild('1'), tree({ a: 'a1', b: 'b1', gone: 'g' })],
  [asBuild('2'), tree({ a: 'a1', b: 'b2' })],
  [asBuild('3'), tree({ a: 'a3', b: 'b2' })],
]) as Trees;
const catalogue = catalogueOf({
  towline: [{ version: '2', files: [{ path: 'mods/t', size: 1, sha256: digest('t2'), href: 't' }] }],
});
const altered = (path: string, found: string): SurveyRow => ({
  ...{ path, state: 'altered', size: 1, expected: keyOf('other'), found: keyOf(found) },
});
const absent = (path: string): SurveyRow => ({ path, state: 'absent', size: 1, expected: keyOf('g') });

it('an update, a mod and a hand are told apart by whose bytes lie there', () => {
  const rows = [altered('a', 'a3'), altered('b', 'b2'), absent('gone'), altered('mods/t', 't2'), altered('x', 'mine')];
  expect(
    driftCauses(rows, asBuild('1'), { trees, catalogue }).map(({ cause, rows: own }) => [cause, own.length]),
  ).toEqual([
    [{ kind: 'update', build: '3' }, 3],
    [{ kind: 'mod', mod: 'towline', name: 'towline', release: '2' }, 1],
    [{ kind: 'hand' }, 1],
  ]);
});

it('of builds that explain as much the newest is the one', () => {
  const causes = driftCauses([altered('b', 'b2')], asBuild('1'), { trees, catalogue });
  expect(causes.map(({ cause }) => cause)).toEqual([{ kind: 'update', build: '3' }]);
});

it('a file that is merely gone is no update, and the held build is none', () => {
  const causes = driftCauses([absent('gone'), altered('b', 'b1')], asBuild('1'), { trees, catalogue });
  expect(causes.map(({ cause }) => cause.kind)).toEqual(['hand']);
});

it('what was taken over is no drift until it changes again', () => {
  const rows = [altered('a', 'a3'), absent('gone')];
  const accepted = rows.map(({ path, found }) => [path, found ?? null] as const);
  expect(unaccepted(rows, accepted)).toEqual([]);
  expect(unaccepted([altered('a', 'again'), absent('gone')], accepted).map(({ path }) => path)).toEqual(['a']);
  expect(unaccepted(rows, [])).toEqual(rows);
});
