import { expect, it } from 'vitest';
import { ProgressSum } from './progress-sum';
import type { DiskProgress } from './protocol';

function summing() {
  const told: DiskProgress[] = [];
  const clock = { now: 0 };
  return {
    told,
    clock,
    sum: new ProgressSum(
      (progress) => told.push(progress),
      () => clock.now,
    ),
  };
}

it('tells many small files a few times, and loses none', () => {
  const { told, clock, sum } = summing();
  for (let i = 0; i < 1000; i++) {
    clock.now = i;
    sum.add({ kind: 'bytes', files: 1, bytes: 3 });
  }
  sum.flush();
  expect(told.length).toBeLessThanOrEqual(11);
  const total = told.reduce((all, progress) => all + (progress.kind === 'bytes' ? progress.files : 0), 0);
  expect(total).toBe(1000);
  const once = told.length;
  sum.flush();
  expect(told).toHaveLength(once);
});

it('tells of a piece at once, and of what was done before it first', () => {
  const { told, sum } = summing();
  sum.add({ kind: 'bytes', files: 1, bytes: 3 });
  sum.add({ kind: 'piece', index: 7, state: 'checked', bytes: 5 });
  expect(told).toEqual([
    { kind: 'bytes', files: 1, bytes: 3 },
    { kind: 'piece', index: 7, state: 'checked', bytes: 5 },
  ]);
});
