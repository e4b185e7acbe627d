import { expect, it } from 'vitest';
import { FetchTally } from './fetch-tally';

const came = { fetchedBytes: 30, reusedBytes: 5, wireBytes: 33, requests: 2 };
const news = (index: number, state: 'arriving' | 'checked' | 'on-hand') => ({ file: 0, index, state, bytes: 10 });

it('counts each piece once, and takes what lay there for no rate', () => {
  let now = 0;
  const tally = new FetchTally({ build: '1', files: 3, bytes: 100 }, undefined, () => now);
  expect(tally.piece('a', news(0, 'on-hand'))).toBe(10);
  expect([tally.piece('a', news(1, 'arriving')), tally.piece('a', news(1, 'checked'))]).toEqual([0, 10]);
  // Asked for again, it tells of what is there.
  expect([0, 1].map((index) => tally.piece('a', news(index, 'on-hand')))).toEqual([0, 0]);
  expect(tally.piece('b', news(1, 'checked'))).toBe(10);
  tally.haul(came);
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
  const first = new FetchTally({ build: '1', files: 3, bytes: 100 }, { odd: true }, () => 0);
  first.haul(came);
  const left = structuredClone(first.report());
  const second = new FetchTally({ build: '1', files: 1, bytes: 20 }, left, () => 0);
  second.haul(came);
  expect(second.report()).toMatchObject({ files: 3, wholeBytes: 100, fetchedBytes: 60, requests: 4 });
});
