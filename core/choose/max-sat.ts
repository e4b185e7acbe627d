import { type Literal, not, Sat } from './sat';

/** A literal that should hold, and what is lost where it does not. */
export interface Soft {
  readonly literal: Literal;
  /** Above 0. */
  readonly weight: number;
}

export interface Optimum {
  /** The values of the variables in the best answer, undefined where none was found. */
  readonly model: readonly boolean[] | undefined;
  /** What the best answer loses. */
  readonly loss: number;
  /** No answer loses less. */
  readonly leastLoss: number;
  /** Whether the best answer was proven to be the best, and all further questions are about such answers alone. */
  readonly exact: boolean;
  /**
   * How much of each soft literal's weight the proof rests on. With any weights that are not below these the proof holds as
   * well; where they are above for all that holds in the best answer, it has the same best answers.
   */
  readonly needed: ReadonlyMap<Literal, number>;
}

const lossOf = (model: readonly boolean[], softs: readonly Soft[]): number =>
  softs.reduce((sum, { literal, weight }) => (model[literal >> 1] === ((literal & 1) === 0) ? sum : sum + weight), 0);

/** A core that was found with many assumptions often has some that it does not need. */
const TRIMS = 3;
const CONFLICTS_A_TRIM = 50;

/**
 * Of what cannot all hold, one at least is lost; for each further one there is a new soft literal, which can hold as long
 * as no further one is lost (N. Narodytska, F. Bacchus, Maximum Satisfiability Using Core-Guided MaxSAT Resolution, 2014).
 */
function relax(sat: Sat, core: readonly Literal[]): Literal[] {
  sat.clause(core.map(not));
  const softs: Literal[] = [];
  /** Holds only where all literals of the core behind the place hold. */
  let rest = core.at(-1)!;
  for (let i = core.length - 2; i >= 0; i--) {
    const soft = sat.variable(true);
    sat.clause([not(soft), core[i]!, rest]);
    softs.push(soft);
    if (i === 0) break;
    const both = sat.variable(true);
    sat.clause([not(both), core[i]!]);
    sat.clause([not(both), rest]);
    rest = both;
  }
  return softs;
}

function trimmed(sat: Sat, found: readonly Literal[]): Literal[] {
  let core = [...found];
  for (let i = 0; i < TRIMS && core.length > 2; i++) {
    if (sat.solve(core.toReversed(), CONFLICTS_A_TRIM) !== false || sat.core.length >= core.length) break;
    core = sat.core;
  }
  return core;
}

/**
 * Finds values for which the least is lost: literals that cannot all hold are found one set after the other, the heavy ones
 * first, and each set makes the least loss larger, until what is left can hold (core-guided maximum satisfiability with
 * stratification). Where it comes to its end, clauses are added that leave only best answers, so that the next call decides
 * among them.
 * @param stopAt count of the solver's conflicts at which to give up
 */
export function minimizeLoss(sat: Sat, softs: readonly Soft[], stopAt: number): Optimum {
  const left = new Map<Literal, number>();
  for (const { literal, weight } of softs) left.set(literal, (left.get(literal) ?? 0) + weight);
  const needed = new Map<Literal, number>();
  const lose = (literal: Literal, weight: number): void => {
    needed.set(literal, (needed.get(literal) ?? 0) + weight);
  };
  let leastLoss = 0;
  let best: { model: readonly boolean[]; loss: number } | undefined;
  let stratum = Math.max(0, ...left.values());

  const keepModel = (): void => {
    const loss = lossOf(sat.model, softs);
    if (!best || loss < best.loss) best = { model: sat.model, loss };
  };

  /** What holds anyway need not be assumed, and what cannot hold is lost without a search. */
  const settle = (): void => {
    for (const [literal, weight] of left) {
      const fixed = sat.fixed(literal);
      if (fixed === undefined) continue;
      left.delete(literal);
      if (fixed) continue;
      leastLoss += weight;
      lose(literal, weight);
    }
  };

  for (;;) {
    settle();
    const assumed = [...left].filter(([, weight]) => weight >= stratum).map(([literal]) => literal);
    const answer = sat.solve(assumed, Math.max(0, stopAt - sat.conflicts));
    if (answer === undefined) break;
    if (answer) {
      keepModel();
      const lighter = [...left.values()].filter((weight) => weight < stratum);
      if (lighter.length === 0) {
        for (const literal of left.keys()) sat.clause([literal]);
        return { model: best!.model, loss: best!.loss, leastLoss, exact: true, needed };
      }
      stratum = Math.max(...lighter);
      continue;
    }
    // No answer at all: the clauses themselves cannot hold.
    if (sat.core.length === 0) break;
    const core = trimmed(sat, sat.core);
    const least = Math.min(...core.map((literal) => left.get(literal)!));
    leastLoss += least;
    for (const literal of core) {
      const weight = left.get(literal)! - least;
      lose(literal, least);
      if (weight > 0) left.set(literal, weight);
      else left.delete(literal);
    }
    for (const literal of relax(sat, core)) left.set(literal, least);
  }
  return { model: best?.model, loss: best?.loss ?? Infinity, leastLoss, exact: false, needed };
}
