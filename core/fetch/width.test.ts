import { expect, it } from 'vitest';
import { Width } from './width';

it('grows by one a round while all goes well, and halves once for all that was under way', () => {
  const width = new Width();
  const end = (wasBusy: boolean, times: number): number => {
    for (let i = 0; i < times; i++) width.ended(wasBusy);
    return width.now;
  };
  expect([width.now, end(false, 3), end(false, 1), end(false, 100)]).toEqual([4, 4, 5, 8]);
  expect([end(true, 1), end(true, 3), end(true, 1)]).toEqual([4, 4, 2]);
  expect([end(true, 50), end(false, 1), end(false, 2)]).toEqual([1, 2, 3]);
});
