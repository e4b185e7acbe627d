import { hash } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { HOSTILE } from '../core/testing/hostile';
import { isFailure } from '#core/failure';
import { READERS } from '~/queries/readers';
import { decodeText } from '~/queries/text-file';

/* A process that lets one reader read. See readers.mjs. */

/** Twice as long a text may take two and a half times as long; this is of one four times as long. */
const MOST_GROWTH = 2.5 ** 2;
const LEAST_SECONDS = 0.15;
const ROUNDS = 3;

export const readers = Object.keys(READERS);

/** Megabytes of memory, now or at the most since the last time that it was asked. */
function memory(name: 'VmRSS' | 'VmHWM'): number {
  const found = new RegExp(`${name}:\\s+(\\d+)`).exec(readFileSync('/proc/self/status', 'utf8'));
  return Number(found?.[1]) / 1000;
}

async function measure(read: (text: string) => unknown, text: string) {
  (globalThis as { gc?: () => void }).gc?.();
  const before = memory('VmRSS');
  writeFileSync('/proc/self/clear_refs', '5');
  const start = performance.now();
  let outcome = 'read';
  try {
    await read(text);
  } catch (error) {
    outcome = isFailure(error) ? error.code : `NOT BY NAME: ${error}`;
  }
  const seconds = (performance.now() - start) / 1000;
  const MB = memory('VmHWM') - before;
  const began = performance.now();
  hash('sha256', text);
  return { seconds, MB, outcome, timesSha256: seconds / ((performance.now() - began) / 1000) };
}

/**
 * How many times as long as a quarter of it a text takes: the least of some times of each, since the first of a kind also
 * waits for the code to be compiled.
 */
async function growthOf(read: (text: string) => unknown, text: string, quarter: string): Promise<number> {
  let [whole, part] = [Infinity, Infinity];
  for (let i = 0; i < ROUNDS; i++) {
    part = Math.min(part, (await measure(read, quarter)).seconds);
    whole = Math.min(whole, (await measure(read, text)).seconds);
  }
  return whole / part;
}

const digits = (n: number): number => Number(n.toFixed(2));

async function main([reader = '', first, ...rest]: string[]): Promise<void> {
  const read = READERS[reader]!;
  const texts =
    first === '--size'
      ? Object.entries(HOSTILE).map(([name, make]) => [name, () => make(Number(rest[0]))] as const)
      : [first!, ...rest].map((path) => [path, () => decodeText(readFileSync(path), path)] as const);
  const all = [];
  for (const [name, make] of texts) {
    const text = make();
    const result = await measure(read, text);
    // Below that time it says more of the machine.
    const shape = first === '--size' && result.seconds > LEAST_SECONDS ? HOSTILE[name] : undefined;
    const growth = shape ? await growthOf(read, text, shape(Number(rest[0]) / 4)) : 0;
    all.push({ name, ...result, growth });
    if (process.env.EACH) console.error(reader, name, digits(result.seconds), Math.round(result.MB), result.outcome);
  }
  const slowest = all.toSorted((a, b) => b.seconds - a.seconds)[0]!;
  const fastest = all.toSorted((a, b) => b.growth - a.growth)[0]!;
  const largest = all.toSorted((a, b) => b.MB - a.MB)[0]!;
  const line = {
    bench: 'readers',
    reader,
    texts: all.length,
    seconds: digits(slowest.seconds),
    timesSha256: digits(slowest.timesSha256),
    slowest: slowest.name,
    MB: Math.round(largest.MB),
    largest: largest.name,
    ...(first === '--size' && { growth: digits(fastest.growth), growsMost: fastest.name }),
    notByName: all.filter(({ outcome }) => outcome.startsWith('NOT')).length,
  };
  console.log(JSON.stringify(line));
  if (fastest.growth > MOST_GROWTH) process.exitCode = 1;
}

if (process.argv[2] !== undefined && READERS[process.argv[2]]) await main(process.argv.slice(2));
