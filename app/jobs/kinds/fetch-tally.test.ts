import { expect, it } from 'vitest';
import { asDepot } from '#core/builds';
import { contentKey } from '#core/digest';
import { type FetchItem, NOTHING_BROUGHT, type PieceNews } from '#core/fetch';
import { FetchTally } from './fetch-tally';

const came = { fetchedBytes: 30, reusedBytes: 5, wireBytes: 33, requests: 2 };
const news = (index: number, state: 'arriving' | 'checked' | 'on-hand' | 'reused'): PieceNews => ({
  ...{ file: 0, index, state, bytes: 10, soFar: NOTHING_BROUGHT },
});
const NOTHING_NEW = { files: 0, bytes: 0 };

/** A file of three pieces. */
function fileOf(digit: string, ...arrived: number[]): FetchItem {
  const sha256 = digit.repeat(64);
  const size = 3 << 20;
  return {
    ...{ path: digit, size, sha256, href: `/${digit}`, owner: { kind: 'depot', depot: asDepot('core') } },
    key: contentKey(size, [sha256, sha256, sha256]),
    source: { how: 'fetch', pieces: [0, 1, 2].map((i) => (arrived.includes(i) ? 'arrived' : undefined)) },
  };
}
const [a, b] = [fileOf('a'), fileOf('b')];

it('counts each piece once, and what is on the wire for the rate', () => {
  let now = 0;
  const tally = new FetchTally({ build: '1', items: [a, b] }, undefined, () => now);
  const counted = (item: FetchItem, ...some: PieceNews[]) => some.map((one) => tally.piece(item, one));
  expect(counted(a, news(0, 'on-hand'), news(1, 'arriving'), news(1, 'checked'))).toEqual([
    { files: 0, bytes: 10 },
    NOTHING_NEW,
    { files: 0, bytes: 10 },
  ]);
  // Asked for again, it tells of what is there.
  expect(counted(a, news(0, 'on-hand'), news(1, 'on-hand'))).toEqual([NOTHING_NEW, NOTHING_NEW]);
  expect(tally.report().partly).toEqual([[a.sha256, [[0, 2]]]]);
  // What lies elsewhere on the disk makes a file whole, and does not come.
  expect(counted(a, news(2, 'reused'), news(2, 'on-hand'))).toEqual([{ files: 1, bytes: 0 }, NOTHING_NEW]);
  expect(counted(b, news(1, 'checked'))).toEqual([{ files: 0, bytes: 10 }]);
  tally.came(NOTHING_BROUGHT, { ...came, wireBytes: 20, requests: 1 });
  tally.came({ ...came, wireBytes: 20, requests: 1 }, came);
  now = 700;
  expect(tally.report()).toMatchObject({
    ...came,
    ...{ files: 2, wholeBytes: 6 << 20, milliseconds: 700 },
    course: { bytes: [33] },
    partly: [[b.sha256, [[1, 2]]]],
  });
});

it('what came of a file before is no part of what comes, and not lost where it is not come to', () => {
  const tally = new FetchTally({ build: '1', items: [fileOf('a', 0, 2), fileOf('b', 1)] }, undefined, () => 0);
  expect([news(0, 'on-hand'), news(1, 'checked')].map((one) => tally.piece(a, one))).toEqual([
    NOTHING_NEW,
    { files: 1, bytes: 10 },
  ]);
  expect(tally.report().partly).toEqual([[b.sha256, [[1, 2]]]]);
});

it('goes on from what it left, and from nothing that is no report', () => {
  let now = 5000;
  const first = new FetchTally({ build: '1', items: [a, b] }, { odd: true }, () => now);
  first.came(NOTHING_BROUGHT, came);
  first.piece(a, news(0, 'checked'));
  now += 600;
  const left = structuredClone(first.report());
  now += 60_000;
  const second = new FetchTally({ build: '1', items: [b] }, left, () => now);
  second.came(NOTHING_BROUGHT, came);
  second.piece(b, news(0, 'checked'));
  expect(second.report()).toMatchObject({ files: 2, wholeBytes: 6 << 20, fetchedBytes: 60, requests: 4 });
  // The time that nothing was under way is no part of the course.
  expect(second.report().course).toEqual({ step: 500, bytes: [33, 33] });
});
