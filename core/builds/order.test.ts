import fc from 'fast-check';
import { expect, it } from 'vitest';
import { moveBuild, orderBuilds } from './order';
import { asBuild } from './schema';

const labels = ['1', '2', '3', '4', '5'].map(asBuild);
const builds = labels.map((label) => ({ label }));

it('a person’s order counts, and builds that came out since stand behind the ones that they followed', () => {
  const order = ['2', '1', '3', 'gone'].map(asBuild);
  expect(orderBuilds(builds, order).map(({ label }) => label)).toEqual(['2', '1', '3', '4', '5']);
  expect(orderBuilds(builds, ['3', '1'].map(asBuild)).map(({ label }) => label)).toEqual(['3', '4', '5', '1', '2']);
  expect(orderBuilds(builds, [])).toEqual(builds);
});

it('no build is lost or doubled, whatever the order', () => {
  fc.assert(
    fc.property(fc.shuffledSubarray(labels), (order) => {
      expect(
        orderBuilds(builds, order)
          .map(({ label }) => label)
          .toSorted(),
      ).toEqual(labels);
    }),
  );
});

it('a build moves by one place, and not past the ends', () => {
  expect(moveBuild(labels, asBuild('3'), -1)).toEqual(['1', '3', '2', '4', '5']);
  expect(moveBuild(labels, asBuild('5'), 1)).toEqual(labels);
  expect(moveBuild(labels, asBuild('9'), 1)).toEqual(labels);
});
