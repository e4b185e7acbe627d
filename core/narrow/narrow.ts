import { Covered, placesOf, type Start, Suspicion } from './suspicion';

/** Mods that a game is narrowed down to, by their places. */
export interface Question {
  /** How suspicious each is in relation to the others. */
  readonly weights: readonly number[];
  /** Of each, what it does not run without; a mod that is on has all of them on. */
  readonly needs: readonly (readonly number[])[];
}

/** What the failure is down to: one mod, two that fail only together, or the game without any mod. */
export type Culprit = { readonly mods: readonly number[]; readonly likely: number };

/** The start that tells most. */
export interface Trial {
  readonly on: Uint8Array;
  /** How likely it is to fail. */
  readonly fails: number;
  /** Bits that its answer is expected to tell. */
  readonly bits: number;
}

export interface Narrowed {
  /** How likely each mod has to do with the failure, by itself or with another one. */
  readonly involved: Float64Array;
  /** From the likeliest; of mods that no start can tell apart, each. */
  readonly culprits: readonly Culprit[];
  /** Undefined once it is found, or no start can tell more. */
  readonly next: Trial | undefined;
  /** Starts that are left, this one included: as it is expected to be, and where it is two that fail together. */
  readonly left: { readonly likely: number; readonly most: number };
}

/** Where a suspicion is likelier than that, it is found. */
const SURE = 0.985;
/** Starts that tell less than that tell nothing. */
const LEAST_BITS = 0.02;
/** Ways in which a start is put together, of which the best counts. */
const WAYS = 14;
const SWEEPS = 4;
const MOST_TOLD = 12;

/** Everything that each mod needs, and everything that needs it, itself included. */
function closures(needs: readonly (readonly number[])[]): { readonly up: number[][]; readonly down: number[][] } {
  const up = needs.map((_, mod) => {
    const all = new Set([mod]);
    for (const one of all) for (const need of needs[one]!) all.add(need);
    return [...all];
  });
  const down: number[][] = needs.map(() => []);
  up.forEach((all, mod) => all.forEach((need) => down[need]!.push(mod)));
  return { up, down };
}

/** Numbers that look like chance and are the same for the same question (xorshift). */
function chance(seed: number): () => number {
  let state = seed | 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}

/** The start that is expected to tell most, as far as it is looked for: mods are put together in several orders, then changed one by one. */
function bestTrial(suspicion: Suspicion, { needs }: Question, seed: number): Trial {
  const { up, down } = closures(needs);
  const random = chance(seed);
  const involved = Array.from({ length: suspicion.count }, (_, mod) => suspicion.involved(mod));
  let best: { on: Uint8Array; bits: number; fails: number } | undefined;
  const consider = (covered: Covered): void => {
    const bits = covered.information();
    if (!best || bits > best.bits + 1e-9) best = { on: covered.on.slice(), bits, fails: covered.fails() };
  };
  consider(new Covered(suspicion));
  for (let way = 0; way < WAYS; way++) {
    const covered = new Covered(suspicion);
    const shuffled = involved.map((p, mod) => ({
      mod,
      rank: way === 0 ? -p : way === 1 ? p : -(random() ** (1 / (p + 1e-6))),
    }));
    for (const { mod } of shuffled.toSorted((a, b) => a.rank - b.rank)) {
      for (const one of up[mod]!) covered.add(one);
      consider(covered);
    }
  }
  // Each mod of the best start is switched by itself, as long as that tells more.
  const covered = new Covered(suspicion);
  for (const mod of placesOf(best!.on)) covered.add(mod);
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const before = best!.bits;
    for (let mod = 0; mod < suspicion.count; mod++) {
      const isOn = covered.on[mod] === 1;
      const switched = (isOn ? down : up)[mod]!.filter((one) => (covered.on[one] === 1) === isOn);
      for (const one of switched) (isOn ? covered.remove : covered.add).call(covered, one);
      const bits = covered.information();
      if (bits > best!.bits + 1e-9) consider(covered);
      else for (const one of switched) (isOn ? covered.add : covered.remove).call(covered, one);
    }
    if (best!.bits <= before + 1e-9) break;
  }
  return best!;
}

/** What is suspected most: each mod, two of them, or the game itself, whose list of mods is empty. */
function culpritsOf(suspicion: Suspicion): Culprit[] {
  const all: Culprit[] = [{ mods: [], likely: suspicion.gameItself() }];
  const least = 1e-4;
  for (let i = 0; i < suspicion.count; i++) {
    const likely = suspicion.single(i);
    if (likely > least) all.push({ mods: [i], likely });
    for (let j = i + 1; j < suspicion.count; j++) {
      const both = suspicion.pair(i, j);
      if (both > least) all.push({ mods: [i, j], likely: both });
    }
  }
  return all.toSorted((a, b) => b.likely - a.likely).slice(0, MOST_TOLD);
}

/**
 * Narrows a failure down: what is suspected after some starts, and the start that tells most about it.
 * Deterministic: the same question and starts give the same.
 */
export function narrow(question: Question, starts: readonly Start[]): Narrowed {
  const suspicion = new Suspicion(question.weights, starts);
  const culprits = culpritsOf(suspicion);
  const involved = Float64Array.from(question.weights, (_, mod) => suspicion.involved(mod));
  const isFound = culprits[0]!.likely >= SURE;
  const trial = isFound ? undefined : bestTrial(suspicion, question, 7919 * (starts.length + 1));
  const next = trial && trial.bits >= LEAST_BITS ? trial : undefined;
  if (!next) return { involved, culprits, next, left: { likely: 0, most: 0 } };
  // A start that tells less than a bit is likely to be followed by others like it; the last one only makes sure.
  const per = Math.min(1, Math.max(next.bits, 0.3));
  const likely = Math.max(1, Math.ceil(suspicion.entropy() / per));
  const couples =
    culprits.length > 1 ? Math.log2(1 + (question.weights.length * (question.weights.length - 1)) / 2) : 0;
  return {
    involved,
    culprits,
    next,
    left: { likely, most: Math.max(likely + 1, Math.ceil(couples * 1.3) - starts.length) },
  };
}
