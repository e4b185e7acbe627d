import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type OptionSet, type Solution, Solver, type SolverMod, type Worth } from './solver';
import { cases } from '../testing/cases';

const MODS = 9;
const setArbitrary = fc.record({ mod: fc.nat({ max: MODS - 1 }), mask: fc.integer({ min: 1, max: 3 }) });
const optionArbitrary = fc.record({
  needs: fc.array(fc.array(setArbitrary, { minLength: 1, maxLength: 2 }), { maxLength: 1 }),
  forbids: fc.array(setArbitrary, { maxLength: 2 }),
});
const modsArbitrary = fc.array(fc.tuple(optionArbitrary, optionArbitrary), { minLength: MODS, maxLength: MODS });
const valuesArbitrary = fc.array(fc.constantFrom(0, 1, 1, 3, 10), { minLength: MODS, maxLength: MODS });

const solverOf = (options: readonly (readonly SolverMod['options'][number][])[]): Solver =>
  new Solver(
    options.map((own, mod) => ({
      // What a mod says of itself is for whoever makes the question to settle.
      options: own.map(({ needs, forbids }) => ({
        needs: needs.map((need) => need.filter((other) => other.mod !== mod)).filter((need) => need.length > 0),
        forbids: forbids.filter((other) => other.mod !== mod),
      })),
    })),
  );

const worthsOf = (values: readonly number[]): Worth[] =>
  values.map((value) => ({ value, ties: [value > 0 ? [1, 2] : [-9, -8]], allowed: 3 }));

describe('the search', () => {
  it('that is stopped early never gives less away than it says, and its set is never better than the best', () => {
    let stops = 0;
    fc.assert(
      fc.property(modsArbitrary, valuesArbitrary, fc.nat({ max: 6 }), (options, values, nodes) => {
        const solver = solverOf(options);
        const worths = worthsOf(values);
        const best = solver.solve(worths);
        expect([best.exact, best.gap]).toEqual([true, 0]);
        // One that has not answered the question before.
        const stopped = solverOf(options).solve(worths, nodes);
        if (!stopped.exact) stops += 1;
        expect(stopped.value).toBeLessThanOrEqual(best.value);
        expect(stopped.value + stopped.gap).toBeGreaterThanOrEqual(best.value);
        if (stopped.exact) expect(stopped.value).toBe(best.value);
      }),
      { numRuns: cases(500), seed: 11 },
    );
    expect(stops).toBeGreaterThan(20);
  });

  it('answers the same question the same, whatever it was asked in between', () => {
    fc.assert(
      fc.property(modsArbitrary, valuesArbitrary, valuesArbitrary, (options, values, others) => {
        const solver = solverOf(options);
        const first = solver.solve(worthsOf(values));
        solver.solve(worthsOf(others));
        const { conflicts: _, ...again } = solver.solve(worthsOf(values));
        const { conflicts: __, ...before } = first;
        expect(again).toEqual(before);
      }),
      { numRuns: cases(200), seed: 12 },
    );
  });

  it('answers after a change of values as one does that was never asked before', () => {
    const change = fc.tuple(fc.nat({ max: MODS - 1 }), fc.constantFrom(1, 2, 3, 10, 30));
    fc.assert(
      fc.property(modsArbitrary, valuesArbitrary, fc.array(change, { maxLength: 6 }), (options, values, changes) => {
        const solver = solverOf(options);
        const now: number[] = [...values];
        for (const [mod, value] of changes) {
          solver.solve(worthsOf(now));
          // What nobody asked for stays so: that is another question.
          if (now[mod]! > 0) now[mod] = value;
          const fresh = solverOf(options).solve(worthsOf(now));
          const ties = ({ chosen }: Solution): number[] => [
            [...chosen].reduce((sum, [at, bit]) => sum + worthsOf(now)[at]!.ties[0]![bit]!, 0),
          ];
          const again = solver.solve(worthsOf(now));
          expect([again.value, again.exact, ...ties(again)]).toEqual([fresh.value, true, ...ties(fresh)]);
        }
      }),
      { numRuns: cases(300), seed: 13 },
    );
  });

  it('meets as many uses as can be, without giving up value or what stands before them', () => {
    const option = { needs: [], forbids: [] };
    const solver = new Solver([
      { options: [{ ...option, uses: [{ mod: 1, mask: 1 }] }] },
      { options: [option, option] },
      { options: [{ ...option, uses: [{ mod: 3, mask: 1 }] }] },
      { options: [option] },
    ]);
    const worth = (value: number, ...ties: number[]): Worth => ({ value, ties: [ties], allowed: 2 ** ties.length - 1 });
    const { chosen, tieExact } = solver.solve([worth(5, 1), worth(5, 1, 2), worth(5, 1), worth(0, -1)]);
    expect(tieExact).toBe(true);
    // The newer option of the second would win without the use; the fourth, which nobody asked for, comes in for it.
    expect([...chosen]).toEqual([
      [0, 0],
      [1, 0],
      [2, 0],
      [3, 0],
    ]);
    const after = new Solver([{ options: [{ ...option, uses: [{ mod: 1, mask: 1 }] }] }, { options: [option] }], 1);
    expect([...after.solve([worth(5, 1), worth(0, -1)]).chosen]).toEqual([[0, 0]]);
  });

  it('proves what it gives up of many pairs that cannot be beside one another without trying each way', () => {
    const pairs = 40;
    const forbid = (mod: number): OptionSet[] => [{ mod, mask: 1 }];
    const solver = new Solver(
      Array.from({ length: 2 * pairs }, (_, i) => ({
        options: [{ needs: [], forbids: i % 2 === 0 ? forbid(i + 1) : [] }],
      })),
    );
    const { value, exact, conflicts } = solver.solve(
      Array.from({ length: 2 * pairs }, (_, i) => ({ value: 1 + (i % 2), ties: [[0]], allowed: 1 })),
    );
    expect([value, exact]).toEqual([2 * pairs, true]);
    expect(conflicts).toBeLessThan(4 * pairs);
  });

  it('takes in what is needed to any depth, and nothing that is not', () => {
    const chain = (length: number): SolverMod[] =>
      Array.from({ length }, (_, i) => ({
        options: [{ needs: i + 1 < length ? [[{ mod: i + 1, mask: 1 }]] : [], forbids: [] }],
      }));
    const solver = new Solver([...chain(6), { options: [{ needs: [[{ mod: 5, mask: 1 }]], forbids: [] }] }]);
    const worths = worthsOf([5, 0, 0, 0, 0, 0, 0]).map((worth) => ({
      ...worth,
      ties: worth.ties.map((order) => order.slice(0, 1)),
      allowed: 1,
    }));
    expect([...solver.solve(worths).chosen.keys()].sort()).toEqual([0, 1, 2, 3, 4, 5]);
  });
});
