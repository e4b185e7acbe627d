import { chance } from './chance.mjs';
import { digits, load, tell, workFolder } from './kit.mjs';

/*
 * node bench/narrow.mjs [RUNS] [SEED]
 * Narrows failures down to what breaks the game, RUNS (200) times each of 40 and of 300 mods: one culprit, two that fail only together,
 * with even, right and wrong suspicion, and with 10 % of answers that tell nothing and failures that come in 70 % of starts. Prints a line
 * of JSON for each: starts on average and at most, the fewest that could tell (`limit`, bits), how many ended right, and the slowest
 * decision in milliseconds.
 */
const [wantedRuns = '200', seed = '1'] = process.argv.slice(2);
const RUNS = Number(wantedRuns);
const MOST_STARTS = 200;
const { narrow } = await load(workFolder('narrow'), 'bench/narrow-node.ts');
const { next, upTo } = chance(seed);

/** One failure, narrowed down by the answers that a game gives which fails with all of `culprit` on. */
function run(count, culprit, { weights, blank = 0, rate = 1 }) {
  const question = { weights, needs: weights.map(() => []) };
  const starts = [];
  let slowest = 0;
  for (;;) {
    const began = performance.now();
    const { next: trial, culprits } = narrow(question, starts);
    slowest = Math.max(slowest, performance.now() - began);
    const found = culprits[0].mods;
    const right = found.length === culprit.length && culprit.every((mod) => found.includes(mod));
    if (!trial || starts.length >= MOST_STARTS) return { starts: starts.length, right: right && !trial, slowest };
    const isBroken = culprit.every((mod) => trial.on[mod] === 1);
    const outcome = next() < blank ? 'cannot-tell' : isBroken && next() < rate ? 'fails' : 'runs';
    starts.push({ on: trial.on, outcome });
  }
}

/** Different mods at random. */
function pick(count, size) {
  const picked = new Set();
  while (picked.size < size) picked.add(upTo(count));
  return [...picked];
}

for (const count of [40, 300]) {
  const even = Array.from({ length: count }, () => 1);
  /** A fifth of the mods is ten times as suspicious as the others: the culprits are among them, or are not. */
  const suspicious = (culprit, isRight) => {
    const weights = even.map(() => (next() < 0.2 ? 10 : 1));
    for (const mod of culprit) weights[mod] = isRight ? 10 : 1;
    return weights;
  };
  const kinds = {
    even: () => ({ weights: even }),
    right: (culprit) => ({ weights: suspicious(culprit, true) }),
    wrong: (culprit) => ({ weights: suspicious(culprit, false) }),
    noisy: () => ({ weights: even, blank: 0.1, rate: 0.7 }),
  };
  for (const size of [1, 2])
    for (const [kind, settings] of Object.entries(kinds)) {
      const runs = Array.from({ length: RUNS }, () => {
        const culprit = pick(count, size);
        return run(count, culprit, settings(culprit));
      });
      const starts = runs.map((one) => one.starts);
      tell({
        ...{ bench: 'narrow', mods: count, culprits: size, kind, runs: RUNS },
        limit: digits(Math.log2(size === 1 ? count : (count * (count - 1)) / 2)),
        average: digits(starts.reduce((a, b) => a + b, 0) / RUNS),
        ...{ most: Math.max(...starts), right: runs.filter(({ right }) => right).length },
        slowestMs: Math.round(Math.max(...runs.map(({ slowest }) => slowest))),
      });
    }
}
