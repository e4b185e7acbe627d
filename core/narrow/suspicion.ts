/*
 * What is suspected: each mod by itself, each two that fail only together, and the game without any of them. What is known of a start
 * makes each likelier or less likely (Bayes); answers are not believed without doubt, and a failure may come in some starts only.
 */

/** How a start with some mods on went. */
export interface Start {
  /** By a mod's place: whether it was on. */
  readonly on: Uint8Array;
  readonly outcome: 'fails' | 'runs' | 'cannot-tell';
}

/** In how many of its starts a failure may come, and how likely that is before anything is known. */
const RATES: readonly (readonly [rate: number, likely: number])[] = [
  [1, 0.8],
  [0.7, 0.18],
  [0.4, 0.02],
];
/** Starts that fail for another reason, or are told wrongly. */
const STRAY = 1 / 1000;
const PAIRS = 0.08;
const GAME = 0.01;
/** As much of the suspicion is even, so that a wrong one costs little. */
const EVEN = 0.5;

/** What is suspected, with its probability; all of them together are 1. */
export class Suspicion {
  /** Of a failure that comes at one of the rates: by mod, and by two mods at `i * count + j`, each pair twice. */
  readonly singles: Float64Array[];
  readonly pairs: Float64Array[];
  /** The game fails without any mod, at one of the rates. */
  readonly game: number[];

  /** @param weights how suspicious each mod is in relation to the others; nothing else is said by them */
  constructor(
    readonly weights: readonly number[],
    starts: readonly Start[],
  ) {
    const count = weights.length;
    const told = starts.filter(({ outcome }) => outcome !== 'cannot-tell');
    const prior = priorOf(weights);
    const [fails, runs] = [new Uint16Array(count * count), new Uint16Array(count * count)];
    const all = { fails: 0, runs: 0 };
    for (const { on, outcome } of told) {
      all[outcome as 'fails' | 'runs'] += 1;
      const counts = outcome === 'fails' ? fails : runs;
      const there = placesOf(on);
      for (const i of there) for (const j of there) counts[i * count + j]! += 1;
    }
    const powers = RATES.map(([rate]) => new Likelihoods(rate, all));
    this.singles = RATES.map(([, likely], r) =>
      prior.map((p, i) => (1 - PAIRS - GAME) * likely * p * powers[r]!.of(fails[i * count + i]!, runs[i * count + i]!)),
    );
    // Of all pairs together, each as suspicious as its two.
    const squares = prior.reduce((sum, p) => sum + p * p, 0);
    const half = count < 2 ? 0 : PAIRS / (1 - squares);
    this.pairs = RATES.map(([, likely], r) => {
      const own = new Float64Array(count * count);
      for (let i = 0; i < count; i++)
        for (let j = i + 1; j < count; j++) {
          const at = i * count + j;
          own[at] = 2 * half * likely * prior[i]! * prior[j]! * powers[r]!.of(fails[at]!, runs[at]!);
          own[j * count + i] = own[at]!;
        }
      return own;
    });
    this.game = RATES.map(([, likely], r) => GAME * likely * powers[r]!.of(all.fails, all.runs));
    this.#normalize();
  }

  get count(): number {
    return this.weights.length;
  }

  #normalize(): void {
    let sum = this.game.reduce((a, b) => a + b, 0);
    for (const own of this.singles) for (const p of own) sum += p;
    for (const own of this.pairs) for (const p of own) sum += p / 2;
    for (const own of [...this.singles, ...this.pairs]) for (let i = 0; i < own.length; i++) own[i]! /= sum;
    this.game.forEach((p, r) => (this.game[r] = p / sum));
  }

  /** How likely it is that a mod breaks it by itself. */
  single(mod: number): number {
    return this.singles.reduce((sum, own) => sum + own[mod]!, 0);
  }

  pair(one: number, other: number): number {
    return this.pairs.reduce((sum, own) => sum + own[one * this.count + other]!, 0);
  }

  /** How likely it is that a mod has to do with it. */
  involved(mod: number): number {
    let sum = this.single(mod);
    for (const own of this.pairs) for (let j = 0; j < this.count; j++) sum += own[mod * this.count + j]!;
    return sum;
  }

  gameItself(): number {
    return this.game.reduce((a, b) => a + b, 0);
  }

  /** How many bits of what is suspected are not known yet. */
  entropy(): number {
    let bits = part(this.gameItself());
    for (let i = 0; i < this.count; i++) {
      bits += part(this.single(i));
      for (let j = i + 1; j < this.count; j++) bits += part(this.pair(i, j));
    }
    return bits;
  }
}

const part = (p: number): number => (p > 0 ? -p * Math.log2(p) : 0);

/** Bits of a question with two answers. */
const bitsOf = (p: number): number => part(p) + part(1 - p);

export const placesOf = (on: Uint8Array): number[] => Array.from(on.keys()).filter((i) => on[i] === 1);

function priorOf(weights: readonly number[]): Float64Array {
  const sum = weights.reduce((a, b) => a + b, 0);
  return Float64Array.from(
    weights,
    (weight) => EVEN / weights.length + (1 - EVEN) * (sum > 0 ? weight / sum : 1 / weights.length),
  );
}

/** How likely the answers are, by how many of each kind were given with all of a suspicion on. */
class Likelihoods {
  readonly #of: Float64Array;

  constructor(
    rate: number,
    private readonly all: { readonly fails: number; readonly runs: number },
  ) {
    const fails = rate + (1 - rate) * STRAY;
    this.#of = new Float64Array((all.fails + 1) * (all.runs + 1));
    for (let f = 0; f <= all.fails; f++)
      for (let r = 0; r <= all.runs; r++)
        this.#of[f * (all.runs + 1) + r] =
          // A failure that always comes is one that was told wrongly where it did not.
          fails ** f * Math.max(1 - fails, STRAY) ** r * STRAY ** (all.fails - f) * (1 - STRAY) ** (all.runs - r);
  }

  of(fails: number, runs: number): number {
    return this.#of[fails * (this.all.runs + 1) + runs]!;
  }
}

/** How much is suspected of what is on, by rate; grows with each mod that is switched on. */
export class Covered {
  readonly #masses: Float64Array;
  readonly on: Uint8Array;
  readonly #there: number[] = [];

  constructor(private readonly suspicion: Suspicion) {
    this.#masses = Float64Array.from(suspicion.game);
    this.on = new Uint8Array(suspicion.count);
  }

  /** By rate, what a mod brings with those that are on. */
  #brings(mod: number, rate: number): number {
    const { singles, pairs, count } = this.suspicion;
    let sum = singles[rate]![mod]!;
    const row = mod * count;
    const own = pairs[rate]!;
    for (const j of this.#there) sum += own[row + j]!;
    return sum;
  }

  add(mod: number): void {
    if (this.on[mod]) return;
    for (let r = 0; r < RATES.length; r++) this.#masses[r]! += this.#brings(mod, r);
    this.on[mod] = 1;
    this.#there.push(mod);
  }

  remove(mod: number): void {
    if (!this.on[mod]) return;
    this.on[mod] = 0;
    this.#there.splice(this.#there.indexOf(mod), 1);
    for (let r = 0; r < RATES.length; r++) this.#masses[r]! -= this.#brings(mod, r);
  }

  /** How likely it is that the next start fails with just these on. */
  fails(): number {
    let p = 0;
    let covered = 0;
    RATES.forEach(([rate], r) => {
      covered += this.#masses[r]!;
      p += this.#masses[r]! * (rate + (1 - rate) * STRAY);
    });
    return Math.min(1, Math.max(0, p + (1 - covered) * STRAY));
  }

  /** Bits that the answer to the next start with just these on is expected to tell. */
  information(): number {
    let known = 0;
    let covered = 0;
    RATES.forEach(([rate], r) => {
      covered += this.#masses[r]!;
      known += this.#masses[r]! * bitsOf(rate + (1 - rate) * STRAY);
    });
    return bitsOf(this.fails()) - known - Math.max(0, 1 - covered) * bitsOf(STRAY);
  }
}
