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

/** A hard question of 150 mods comes to about 20,000 conflicts a second. */
const MOST_CONFLICTS = 100_000;
const MOST_TIE_CONFLICTS = 20_000;

function* bitsOf(mask: number): Generator<number> {
  for (let left = mask; left !== 0; left &= left - 1) yield 31 - Math.clz32(left & -left);
}

/** One question as clauses: a literal for each option that may be in, and for each mod that it is in. */
class Encoding {
  readonly sat = new Sat();
  /** By mod and option. */
  readonly #options: (Literal | undefined)[][];
  /** By mod; undefined where it cannot be in. */
  readonly #ins: (Literal | undefined)[];

  constructor(
    mods: readonly SolverMod[],
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
    return [...bitsOf(mask)].map((bit) => this.#options[mod]![bit]).filter((one) => one !== undefined);
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

  tieSofts(level: number): Soft[] {
    return this.worths.flatMap(({ value, ties }, mod): Soft[] => {
      const worth = (bit: number): number => ties[level]![bit]!;
      const bits = [...this.#options[mod]!.keys()].filter((bit) => this.#options[mod]![bit] !== undefined);
      if (value === 0) {
        return bits.flatMap((bit) => {
          const weight = -worth(bit);
          return weight > 0 ? [{ literal: not(this.#options[mod]![bit]!), weight }] : [];
        });
      }
      // An option is worth the sum of the steps up to it.
      const steps = [...new Set(bits.map(worth))].filter((step) => step > 0).toSorted((a, b) => a - b);
      return steps.map((step, i) => {
        const atLeast = bits.filter((bit) => worth(bit) >= step);
        const literal =
          atLeast.length === bits.length
            ? this.#ins[mod]!
            : this.#oneOf(
                atLeast.map((bit) => this.#options[mod]![bit]!),
                true,
              )!;
        return { literal, weight: step - (steps[i - 1] ?? 0) };
      });
    });
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

/** Whether the better worth of what is in, and the smaller one of what is not, is all that is new. */
function onlyFavours(before: readonly Worth[], now: readonly Worth[], chosen: ReadonlyMap<number, number>): boolean {
  const sameTies = (a: Worth, b: Worth): boolean =>
    a.ties.every((order, level) => order.every((worth, bit) => worth === b.ties[level]![bit]));
  return now.every((worth, mod) => {
    const old = before[mod]!;
    if (worth.allowed !== old.allowed || worth.value > 0 !== old.value > 0 || !sameTies(worth, old)) return false;
    return chosen.has(mod) ? worth.value >= old.value : worth.value <= old.value;
  });
}

/**
 * Finds a set of options with the largest sum of values, and of those the one that comes first by the ties: at most one
 * option of a mod, every need of what is in met, nothing that is in forbidden. The answer is proven to be the best, unless
 * the search was stopped, which `exact` and `gap` then say. One solver answers many questions about the same mods.
 */
export class Solver {
  #last: { worths: readonly Worth[]; solution: Solution } | undefined;

  constructor(private readonly mods: readonly SolverMod[]) {}

  /**
   * @param worths one for each mod
   * @param mostConflicts at which the search for more value is stopped
   * @param mostTieConflicts at which that for better ties is
   */
  solve(worths: readonly Worth[], mostConflicts = MOST_CONFLICTS, mostTieConflicts = MOST_TIE_CONFLICTS): Solution {
    const last = this.#last;
    if (last && onlyFavours(last.worths, worths, last.solution.chosen)) {
      // Whatever another set gains by the change, this one gains as well: it is the best still.
      const value = [...last.solution.chosen.keys()].reduce((sum, mod) => sum + worths[mod]!.value, 0);
      const solution = { ...last.solution, value, conflicts: 0 };
      this.#last = { worths, solution };
      return solution;
    }
    const solution = this.#search(worths, mostConflicts, mostTieConflicts);
    this.#last = solution.exact && solution.tieExact ? { worths, solution } : undefined;
    return solution;
  }

  #search(worths: readonly Worth[], mostConflicts: number, mostTieConflicts: number): Solution {
    const encoding = new Encoding(this.mods, worths);
    const { sat } = encoding;
    const softs = encoding.valueSofts();
    const most = softs.reduce((sum, { weight }) => sum + weight, 0);
    const { model, loss, leastLoss, exact } = minimizeLoss(sat, softs, mostConflicts);
    let chosen = model ? encoding.chosen(model) : new Map<number, number>();
    let tieExact = exact;
    const stopAt = sat.conflicts + mostTieConflicts;
    const levels = worths[0]?.ties.length ?? 0;
    for (let level = 0; level < levels && tieExact; level++) {
      const optimum = minimizeLoss(sat, encoding.tieSofts(level), stopAt);
      if (optimum.model) chosen = encoding.chosen(optimum.model);
      tieExact = optimum.exact;
    }
    const value = model ? most - loss : 0;
    return { chosen, value, exact, tieExact, gap: exact ? 0 : most - leastLoss - value, conflicts: sat.conflicts };
  }
}
