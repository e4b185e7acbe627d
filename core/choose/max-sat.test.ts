import fc from 'fast-check';
import { expect, it } from 'vitest';
import { minimizeLoss, type Soft } from './max-sat';
import { type Literal, Sat } from './sat';
import { cases } from '../testing/cases';

const VARIABLES = 7;
const literal = fc.nat({ max: 2 * VARIABLES - 1 });
const clauses = fc.array(fc.array(literal, { minLength: 1, maxLength: 3 }), { maxLength: 20 });
const softs = fc.array(fc.record({ literal, weight: fc.integer({ min: 1, max: 5 }) }), { maxLength: 10 });

const holds = (one: Literal, model: readonly boolean[]): boolean => model[one >> 1] === ((one & 1) === 0);
const lossOf = (model: readonly boolean[], some: readonly Soft[]): number =>
  some.reduce((sum, soft) => (holds(soft.literal, model) ? sum : sum + soft.weight), 0);

/** The models of the clauses, by trying each. */
const modelsOf = (all: readonly (readonly Literal[])[]): boolean[][] =>
  Array.from({ length: 2 ** VARIABLES }, (_, bits) =>
    Array.from({ length: VARIABLES }, (_, i) => ((bits >> i) & 1) === 1),
  ).filter((model) => all.every((clause) => clause.some((one) => holds(one, model))));

const solverOf = (all: readonly (readonly Literal[])[]): Sat => {
  const sat = new Sat();
  for (let i = 0; i < VARIABLES; i++) sat.variable(false);
  for (const clause of all) sat.clause(clause);
  return sat;
};

it('loses no more than the best of all models, and then decides among the best alone', () => {
  fc.assert(
    fc.property(clauses, softs, softs, (all, first, second) => {
      const models = modelsOf(all);
      const sat = solverOf(all);
      const optimum = minimizeLoss(sat, first, Infinity);
      expect(optimum.model === undefined).toBe(models.length === 0);
      if (models.length === 0) return;
      const least = Math.min(...models.map((model) => lossOf(model, first)));
      expect(optimum).toMatchObject({ exact: true, loss: least, leastLoss: least });
      expect(lossOf(optimum.model!, first)).toBe(least);
      const best = models.filter((model) => lossOf(model, first) === least);
      const next = minimizeLoss(sat, second, Infinity);
      expect(next).toMatchObject({ exact: true, loss: Math.min(...best.map((model) => lossOf(model, second))) });
      expect(lossOf(next.model!, first)).toBe(least);
    }),
    { numRuns: cases(300), seed: 5 },
  );
});

it('rests its proof on no more of a weight than there is, and holds with any weights that are not below that', () => {
  fc.assert(
    fc.property(clauses, softs, fc.array(fc.nat({ max: 6 }), { minLength: 10, maxLength: 10 }), (all, some, more) => {
      const distinct = [...new Map(some.map((soft) => [soft.literal, soft])).values()];
      const models = modelsOf(all);
      if (models.length === 0) return;
      const { needed, leastLoss } = minimizeLoss(solverOf(all), distinct, Infinity);
      const heavier = distinct.map(({ literal, weight }, i) => {
        const rests = needed.get(literal) ?? 0;
        expect(rests).toBeLessThanOrEqual(weight);
        return { literal, weight: rests + more[i]! };
      });
      for (const model of models) expect(lossOf(model, heavier)).toBeGreaterThanOrEqual(leastLoss);
    }),
    { numRuns: cases(200), seed: 6 },
  );
});

it('that is stopped gives bounds between which the least loss lies', () => {
  fc.assert(
    fc.property(clauses, softs, fc.nat({ max: 3 }), (all, some, stopAt) => {
      const models = modelsOf(all);
      if (models.length === 0) return;
      const least = Math.min(...models.map((model) => lossOf(model, some)));
      const { loss, leastLoss, exact } = minimizeLoss(solverOf(all), some, stopAt);
      expect(leastLoss).toBeLessThanOrEqual(least);
      expect(loss).toBeGreaterThanOrEqual(least);
      if (exact) expect(loss).toBe(least);
    }),
    { numRuns: cases(200), seed: 7 },
  );
});
