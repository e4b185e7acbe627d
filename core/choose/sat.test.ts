import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type Literal, not, Sat } from './sat';
import { cases } from '../testing/cases';

const VARIABLES = 8;
const literal = fc.nat({ max: 2 * VARIABLES - 1 });
const clauses = fc.array(fc.array(literal, { minLength: 1, maxLength: 3 }), { maxLength: 40 });
const assumptions = fc.uniqueArray(literal, { maxLength: 5, selector: (one) => one >> 1 });

const holds = (one: Literal, values: number): boolean => ((values >> (one >> 1)) & 1) === ((one & 1) ^ 1);

/** Whether some values make all clauses hold, by trying each. */
const canHold = (all: readonly (readonly Literal[])[]): boolean =>
  Array.from({ length: 2 ** VARIABLES }, (_, values) => values).some((values) =>
    all.every((clause) => clause.some((one) => holds(one, values))),
  );

const solverOf = (all: readonly (readonly Literal[])[]): Sat => {
  const sat = new Sat();
  for (let i = 0; i < VARIABLES; i++) sat.variable(i % 2 === 0);
  for (const clause of all) sat.clause(clause);
  return sat;
};

describe('the clause search', () => {
  it('says the same as trying all values, question after question', () => {
    fc.assert(
      fc.property(clauses, fc.array(assumptions, { minLength: 1, maxLength: 4 }), (all, questions) => {
        const sat = solverOf(all);
        for (const assumed of questions) {
          const answer = sat.solve(assumed, Infinity);
          expect(answer).toBe(canHold([...all, ...assumed.map((one) => [one])]));
          if (answer) {
            const values = sat.model.reduce((sum, value, i) => sum + (value ? 1 << i : 0), 0);
            for (const clause of [...all, ...assumed.map((one) => [one])]) {
              expect(clause.some((one) => holds(one, values))).toBe(true);
            }
          } else {
            expect(assumed).toEqual(expect.arrayContaining(sat.core));
            expect(canHold([...all, ...sat.core.map((one) => [one])])).toBe(false);
          }
        }
      }),
      { numRuns: cases(500), seed: 21 },
    );
  });

  it('takes in clauses between questions', () => {
    fc.assert(
      fc.property(clauses, clauses, (first, second) => {
        const sat = solverOf(first);
        sat.solve([], Infinity);
        for (const clause of second) sat.clause(clause);
        expect(sat.solve([], Infinity)).toBe(canHold([...first, ...second]));
      }),
      { numRuns: cases(200), seed: 22 },
    );
  });

  it('knows what holds whatever is assumed', () => {
    const sat = solverOf([[0], [not(0), 2]]);
    expect([sat.fixed(0), sat.fixed(2), sat.fixed(3), sat.fixed(4)]).toEqual([true, true, false, undefined]);
  });

  it('holds what follows from what is assumed, without trying', () => {
    const sat = new Sat();
    const chain = Array.from({ length: 50 }, () => sat.variable(false));
    chain.slice(1).forEach((next, i) => sat.clause([not(chain[i]!), next]));
    expect([sat.solve([chain[0]!], Infinity), sat.conflicts]).toEqual([true, 0]);
    expect(sat.model).toEqual(chain.map(() => true));
    expect(sat.solve([chain[0]!, not(chain.at(-1)!)], Infinity)).toBe(false);
    expect(sat.core.toSorted()).toEqual([chain[0]!, not(chain.at(-1)!)].toSorted());
  });

  /** Pigeons of which each wants a hole, and no two the same: small, but no way around many conflicts. */
  function pigeons(count: number, holes: number, sat = new Sat(), unless: readonly Literal[] = []): Sat {
    const places = Array.from({ length: count }, () => Array.from({ length: holes }, () => sat.variable(true)));
    for (const pigeon of places) sat.clause([...pigeon, ...unless]);
    for (let hole = 0; hole < holes; hole++) {
      places.forEach((one, i) =>
        places.slice(i + 1).forEach((other) => sat.clause([not(one[hole]!), not(other[hole]!)])),
      );
    }
    return sat;
  }

  it('gives up after as many conflicts as it is given, and goes on where it stopped', () => {
    const sat = pigeons(6, 5);
    expect(sat.solve([], 5)).toBeUndefined();
    expect(sat.conflicts).toBe(5);
    expect(sat.solve([], Infinity)).toBe(false);
    expect(sat.solve([], Infinity)).toBe(false);
  });

  it('forgets some of what it has learnt, and nothing that it says is wrong by that', () => {
    const sat = new Sat();
    const more = sat.variable(true);
    pigeons(8, 7, sat, [more]);
    expect(sat.solve([not(more)], Infinity)).toBe(false);
    expect(sat.core).toEqual([not(more)]);
    // More than it keeps at a time, and no more than a search takes that learns what matters.
    expect(sat.conflicts).toBeGreaterThan(2000);
    expect(sat.conflicts).toBeLessThan(6000);
    expect(sat.solve([], Infinity)).toBe(true);
    expect(sat.model[more >> 1]).toBe(true);
  });
});
