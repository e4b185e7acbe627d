import { expect, it } from 'vitest';
import { RateMeter } from './rate-meter';

const rateOf = (meter: RateMeter): number => meter.speed({ files: 0, bytes: 0 }).rate;

it('tells the bytes a second of the last while, and follows when it becomes slow', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  expect(rateOf(meter)).toBe(0);
  for (let i = 0; i < 20; i++) {
    now += 100;
    meter.add({ files: 0, bytes: 1000 });
  }
  expect(rateOf(meter)).toBeCloseTo(10_000, -2);
  now += 60_000;
  expect(rateOf(meter)).toBe(0);
});

it('begins anew after a pause', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  now = 500;
  meter.add({ files: 0, bytes: 1000 });
  meter.reset();
  expect(rateOf(meter)).toBe(0);
  now = 1000;
  meter.add({ files: 0, bytes: 500 });
  expect(rateOf(meter)).toBe(1000);
});

it('tells the rate of the wire where what is done takes fewer bytes there, and the time by what is done', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  for (; now < 1000; now += 100) meter.add({ files: 0, bytes: 1000, wire: 10 });
  const { rate, secondsLeft } = meter.speed({ files: 0, bytes: 20_000 });
  expect([rate, secondsLeft]).toEqual([100, 2]);
});

it('tells what is left by files and bytes, so that tiny files at the beginning do not seem to take for ever', () => {
  let now = 0;
  const meter = new RateMeter(() => now);
  expect(meter.speed({ files: 1, bytes: 1 }).secondsLeft).toBeUndefined();
  for (let i = 0; i < 100; i++) {
    now += 10;
    meter.add({ files: 25, bytes: 25 * 100 });
  }
  // 2,500 tiny files a second; by bytes alone the 10 GB would take 11 hours.
  const left = meter.speed({ files: 97_500, bytes: 10e9 }).secondsLeft!;
  expect(left).toBeGreaterThan(39);
  expect(left).toBeLessThan(100);
});
