import { expect, it } from 'vitest';
import { type Done, ProgressSum } from './progress-sum';

it('tells many small files a few times, and loses none', () => {
  const told: Done[] = [];
  const clock = { now: 0 };
  const sum = new ProgressSum(
    (done) => told.push(done),
    () => clock.now,
  );
  for (let i = 0; i < 1000; i++) {
    clock.now = i;
    sum.add({ files: 1, bytes: 3 });
  }
  sum.flush();
  expect(told.length).toBeLessThanOrEqual(11);
  expect(told.reduce((all, { files }) => all + files, 0)).toBe(1000);
  expect(told.reduce((all, { bytes }) => all + bytes, 0)).toBe(3000);
  const once = told.length;
  sum.flush();
  expect(told).toHaveLength(once);
});
