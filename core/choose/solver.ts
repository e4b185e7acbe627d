import { minimizeLoss, type Soft } from './max-sat';
import { type Literal, not, Sat } from './sat';

/** A mod as the solver sees it: it is left out, or one of its options is in. */
export interface SolverMod {
  readonly options: readonly SolverOption[];
}

/** What a mod is worth in one question. */
export interface Worth {
  /** That the mod is in, whichever option; 0 for one that nobody asked for. */
  readonly value: number;
  /**
   * What each option is worth where sets are of equal value, for one order after the other: the larger sum is better. Not
   * below 0 where the value is above it, and not above 0 for what nobody asked for.
   */
  readonly ties: readonly (readonly number[])[];
  /** The options that may be in at all, as bits. */
  readonly allowed: number;
}

/** Options of one mod, as bits by their places. */
export interface OptionSet {
  readonly mod: number;
  readonly mask: number;
}

export interface SolverOption {
  /** Each of these needs at least one of its alternatives to be in. */
  readonly needs: readonly (readonly OptionSet[])[];
  /** None of these may be in beside it. It is enough that one of two names the other. */
  readonly forbids: readonly OptionSet[];
  /** Of sets that are equal up to these, one is better where more of them are met. */
  readonly uses?: readonly OptionSet[];
}

export interface Solution {
  /** The option of each mod that is in. */
  readonly chosen: ReadonlyMap<number, number>;
  readonly value: number;
  /** Whether no set has more value: that is proven. */
  readonly exact: boolean;
  /** Whether of the sets of this value none comes before it by the ties: that is proven too. */
  readonly tieExact: boolean;
  /** How much more value a better set may have at the most; 0 where the set is proven to have the most. */
  readonly gap: number;
  /** What the proof took. */
  readonly conflicts: number;
}

/** As many options as fit into the bits of a number. */
export const MOST_OPTIONS = 30;

/** Hard questions of 150 mods took 2,000 to 6,000 conflicts a second: an answer comes within ten seconds. */
const MOST_CONFLICTS = 20_000;
const MOST_TIE_CONFLICTS = 3_000;

/** One question as clauses: a literal for each option that may be in, and for each mod that it is in. */
class Encoding {
  readonly sat = new Sat();
  /** By mod and option. */
  readonly #options: (Literal | undefined)[][];
  /** By mod; undefined where it cannot be in. */
  readonly #ins: (Literal | undefined)[];

  constructor(
    private readonly mods: readonly SolverMod[],
    private readonly worths: readonly Worth[],
  ) {
    const { sat } = this;
    this.#options = mods.map(({ options }, mod) => {
      const { allowed, value } = worths[mod]!;
      return options.map((_, bit) => (allowed & (1 << bit) ? sat.variable(value > 0) : undefined));
    });
    this.#ins = this.#options.map((options, mod) =>
      this.#oneOf(
        options.filter((one) => one !== undefined),
        worths[mod]!.value > 0,
      ),
    );
    this.#options.forEach((literals, mod) => {
      const there = literals.filter((one) => one !== undefined);
      there.forEach((one, i) => there.slice(i + 1).forEach((other) => sat.clause([not(one), not(other)])));
      literals.forEach((option, bit) => {
        if (option === undefined) return;
        const { needs, forbids } = mods[mod]!.options[bit]!;
        for (const need of needs) sat.clause([not(option), ...need.flatMap((set) => this.#literals(set))]);
        for (const other of forbids.flatMap((set) => this.#literals(set))) sat.clause([not(option), not(other)]);
      });
    });
  }

  #literals({ mod, mask }: OptionSet): Literal[] {
    return this.#options[mod]!.filter((literal, bit) => literal !== undefined && mask & (1 << bit)) as Literal[];
  }

  /** A literal that holds only where one of these does; undefined where there are none. */
  #oneOf(literals: readonly Literal[], likely: boolean): Literal | undefined {
    if (literals.length < 2) return literals[0];
    const one = this.sat.variable(likely);
    this.sat.clause([not(one), ...literals]);
    for (const literal of literals) this.sat.clause([not(literal), one]);
    return one;
  }

  valueSofts(): Soft[] {
    return this.worths.flatMap(({ value }, mod) => {
      const literal = this.#ins[mod];
      return literal !== undefined && value > 0 ? [{ literal, weight: value }] : [];
    });
  }

  neededOf(mod: number, needed: ReadonlyMap<Literal, number>): number {
    const literal = this.#ins[mod];
    return literal === undefined ? 0 : (needed.get(literal) ?? 0);
  }

  /** One for each use of an option: it holds only where both are in. */
  useSofts(): Soft[] {
    const { sat } = this;
    return this.mods.flatMap(({ options }, mod) =>
      options.flatMap(({ uses = [] }, bit) => {
        const option = this.#options[mod]![bit];
        if (option === undefined) return [];
        return uses.flatMap((use): Soft[] => {
          const used = this.#literals(use);
          if (used.length === 0) return [];
          const both = sat.variable(true);
          sat.clause([not(both), option]);
          sat.clause([not(both), ...used]);
          return [{ literal: both, weight: 1 }];
        });
      }),
    );
  }

  /** What a choice loses by one order of ties, against the best option of each mod. */
  tieLoss(level: number, chosen: ReadonlyMap<number, number>): number {
    let loss = 0;
    this.worths.forEach(({ value, ties }, mod) => {
      const bit = chosen.get(mod);
      const worth = bit === undefined ? 0 : ties[level]![bit]!;
      if (value === 0) loss -= worth;
      else loss += this.#most(mod, ties[level]!) - worth;
    });
    return loss;
  }

  /** The most that an option which may be in is worth; 0 where none may. */
  #most(mod: number, worths: readonly number[]): number {
    return this.#options[mod]!.reduce<number>(
      (most, literal, bit) => (literal === undefined ? most : Math.max(most, worths[bit]!)),
      0,
    );
  }

  tieSofts(level: number): Soft[] {
    const softs: Soft[] = [];
    this.worths.forEach(({ value, ties }, mod) => {
      const [options, worths] = [this.#options[mod]!, ties[level]!];
      if (value === 0) {
        options.forEach((literal, bit) => {
          if (literal !== undefined && worths[bit]! < 0) softs.push({ literal: not(literal), weight: -worths[bit]! });
        });
        return;
      }
      // An option is worth the sum of the steps up to it.
      let below = 0;
      for (let most = this.#most(mod, worths); below < most;) {
        let step = most;
        options.forEach((literal, bit) => {
          if (literal !== undefined && worths[bit]! > below) step = Math.min(step, worths[bit]!);
        });
        const atLeast = options.filter((literal, bit) => literal !== undefined && worths[bit]! >= step) as Literal[];
        const all = options.every((literal, bit) => literal === undefined || worths[bit]! >= step);
        softs.push({ literal: all ? this.#ins[mod]! : this.#oneOf(atLeast, true)!, weight: step - below });
        below = step;
      }
    });
    return softs;
  }

  chosen(model: readonly boolean[]): Map<number, number> {
    const chosen = new Map<number, number>();
    this.#options.forEach((literals, mod) => {
      const bit = literals.findIndex((literal) => literal !== undefined && model[literal >> 1]);
      if (bit >= 0) chosen.set(mod, bit);
    });
    return chosen;
  }
}

/** A solution that is proven, and how much of each mod's value the proof rests on; undefined where that was not kept up. */
interface Proof {
  readonly worths: readonly Worth[];
  readonly solution: Solution;
  readonly needed: readonly number[] | undefined;
}

const sameTies = (a: Worth, b: Worth): boolean =>
  a.ties.every((order, level) => order.every((worth, bit) => worth === b.ties[level]![bit]));

/**
 * Whether a solution is the best still when values change. It is where what is in is worth more and what is not is worth
 * less: whatever another set gains by that, this one gains as well. What is in may also be worth less, as long as it is
 * more than what the proof rests on.
 */
function stillProven({ worths, solution, needed }: Proof, now: readonly Worth[]): Proof | undefined {
  let kept = needed;
  let lowered = false;
  for (const [mod, worth] of now.entries()) {
    const before = worths[mod]!;
    if (worth === before) continue;
    if (worth.allowed !== before.allowed || worth.value > 0 !== before.value > 0 || !sameTies(worth, before))
      return undefined;
    if (worth.value === before.value) continue;
    const isLower = worth.value < before.value;
    if (!solution.chosen.has(mod)) {
      if (!isLower) return undefined;
      if (worth.value < (needed?.[mod] ?? 0)) kept = undefined;
    } else if (isLower) {
      lowered = true;
      if (worth.value <= (needed?.[mod] ?? Infinity)) return undefined;
    }
  }
  if (lowered && !kept) return undefined;
  const value = [...solution.chosen.keys()].reduce((sum, mod) => sum + now[mod]!.value, 0);
  return { worths: now, solution: { ...solution, value, conflicts: 0 }, needed: kept };
}

/**
 * Finds a set of options with the largest sum of values, and of those the one that comes first by the ties: at most one
 * option of a mod, every need of what is in met, nothing that is in forbidden. The answer is proven to be the best, unless
 * the search was stopped, which `exact` and `gap` then say. One solver answers many questions about the same mods.
 */
export class Solver {
  #proof: Proof | undefined;

  /** @param usesAfter how many orders of ties come before the uses */
  constructor(
    private readonly mods: readonly SolverMod[],
    private readonly usesAfter = 0,
  ) {}

  /**
   * @param worths one for each mod
   * @param mostConflicts at which the search for more value is stopped
   * @param mostTieConflicts at which that for better ties is
   */
  solve(worths: readonly Worth[], mostConflicts = MOST_CONFLICTS, mostTieConflicts = MOST_TIE_CONFLICTS): Solution {
    const known = this.#proof && stillProven(this.#proof, worths);
    this.#proof = known ?? this.#search(worths, mostConflicts, mostTieConflicts);
    const { solution } = this.#proof;
    if (!solution.exact || !solution.tieExact) this.#proof = undefined;
    return solution;
  }

  #search(worths: readonly Worth[], mostConflicts: number, mostTieConflicts: number): Proof {
    const encoding = new Encoding(this.mods, worths);
    const { sat } = encoding;
    const softs = encoding.valueSofts();
    const most = softs.reduce((sum, { weight }) => sum + weight, 0);
    const { model, loss, leastLoss, exact, needed } = minimizeLoss(sat, softs, mostConflicts);
    let chosen = model ? encoding.chosen(model) : new Map<number, number>();
    let tieExact = exact;
    const stopAt = sat.conflicts + mostTieConflicts;
    const levels = worths[0]?.ties.length ?? 0;
    const decide = (softs: readonly Soft[]): void => {
      const optimum = minimizeLoss(sat, softs, stopAt);
      if (optimum.model) chosen = encoding.chosen(optimum.model);
      tieExact = optimum.exact;
    };
    for (let level = 0; level <= levels && tieExact; level++) {
      const uses = level === this.usesAfter ? encoding.useSofts() : [];
      if (uses.length > 0) decide(uses);
      if (level === levels || !tieExact) break;
      // Where nothing is lost, what loses nothing is all that the next orders may decide among.
      if (encoding.tieLoss(level, chosen) > 0) decide(encoding.tieSofts(level));
      else for (const { literal } of encoding.tieSofts(level)) sat.clause([literal]);
    }
    const value = model ? most - loss : 0;
    const gap = exact ? 0 : most - leastLoss - value;
    return {
      worths,
      solution: { chosen, value, exact, tieExact, gap, conflicts: sat.conflicts },
      needed: worths.map((_, mod) => encoding.neededOf(mod, needed)),
    };
  }
}
