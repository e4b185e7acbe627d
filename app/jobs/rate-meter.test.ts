import { expect, it } from 'vitest';
import { RateMeter } from './rate-meter';

it('tells the bytes a second of the last while, and follows when it becomes slow', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  expect(meter.rate()).toBe(0);
  for (let i = 0; i < 20; i++) {
    now += 100;
    meter.add(1000);
  }
  expect(meter.rate()).toBeCloseTo(10_000, -2);
  now += 60_000;
  expect(meter.rate()).toBe(0);
});

it('begins anew after a pause', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  now = 500;
  meter.add(1000);
  meter.reset();
  expect(meter.rate()).toBe(0);
  now = 1000;
  meter.add(500);
  expect(meter.rate()).toBe(1000);
});
