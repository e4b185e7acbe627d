import { expect, it } from 'vitest';
import { type ContentKey, contentKey } from '#core/digest';
import { NOTHING_BROUGHT } from '#core/fetch';
import { FetchTally } from './fetch-tally';

const came = { fetchedBytes: 30, reusedBytes: 5, wireBytes: 33, requests: 2 };
const news = (index: number, state: 'arriving' | 'checked' | 'on-hand' | 'reused') => ({
  ...{ file: 0, index, state, bytes: 10, soFar: NOTHING_BROUGHT },
});
const keyOf = (digit: string): ContentKey => contentKey(3 << 20, Array<string>(3).fill(digit.repeat(64)));
const [a, b] = [keyOf('a'), keyOf('b')];

it('counts each piece once, and takes what lay there for no rate', () => {
  let now = 0;
  const tally = new FetchTally({ build: '1', files: 3, bytes: 100 }, undefined, () => now);
  const counted = (key: ContentKey, ...some: ReturnType<typeof news>[]) => some.map((one) => tally.piece(key, one));
  expect(counted(a, news(0, 'on-hand'), news(1, 'arriving'), news(1, 'checked'))).toEqual([
    { files: 0, bytes: 10 },
    { files: 0, bytes: 0 },
    { files: 0, bytes: 10 },
  ]);
  // Asked for again, it tells of what is there.
  expect(counted(a, news(0, 'on-hand'), news(1, 'on-hand'))).toEqual([0, 0].map(() => ({ files: 0, bytes: 0 })));
  // What lies elsewhere on the disk makes a file whole, and does not come.
  expect(counted(a, news(2, 'reused'), news(2, 'on-hand'))).toEqual([
    { files: 1, bytes: 0 },
    { files: 0, bytes: 0 },
  ]);
  expect(counted(b, news(1, 'checked'))).toEqual([{ files: 0, bytes: 10 }]);
  tally.came(NOTHING_BROUGHT, { ...came, wireBytes: 20, requests: 1 });
  tally.came({ ...came, wireBytes: 20, requests: 1 }, came);
  now = 700;
  expect(tally.report()).toMatchObject({
    ...came,
    files: 3,
    wholeBytes: 100,
    milliseconds: 700,
    course: { bytes: [20] },
  });
});

it('goes on from what it left, and from nothing that is no report', () => {
  let now = 5000;
  const first = new FetchTally({ build: '1', files: 3, bytes: 100 }, { odd: true }, () => now);
  first.came(NOTHING_BROUGHT, came);
  first.piece(a, news(0, 'checked'));
  now += 600;
  const left = structuredClone(first.report());
  now += 60_000;
  const second = new FetchTally({ build: '1', files: 1, bytes: 20 }, left, () => now);
  second.came(NOTHING_BROUGHT, came);
  second.piece(b, news(0, 'checked'));
  expect(second.report()).toMatchObject({ files: 3, wholeBytes: 100, fetchedBytes: 60, requests: 4 });
  // The time that nothing was under way is no part of the course.
  expect(second.report().course).toEqual({ step: 500, bytes: [10, 10] });
});
