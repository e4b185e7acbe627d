import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { changedSince, narrow, type Question, SIGNS, type Start, weightOf } from '.';
import { cases } from '../testing/cases';

/** Mods whose requirements come before them, with even suspicion. */
const questions = fc
  .integer({ min: 2, max: 24 })
  .chain((count) => fc.array(fc.array(fc.nat({ max: 1000 }), { maxLength: 2 }), { minLength: count, maxLength: count }))
  .map((wishes): Question => ({
    weights: wishes.map(() => 1),
    needs: wishes.map((some, mod) => [...new Set(mod === 0 ? [] : some.map((wish) => wish % mod))]),
  }));

/** What a game says that fails with all of some mods on. */
function narrowedDown(
  question: Question,
  isBroken: (on: Uint8Array) => boolean,
  said: (start: number) => boolean = () => true,
): { starts: Start[]; found: readonly number[] | undefined } {
  const starts: Start[] = [];
  while (starts.length < 100) {
    const { next, culprits } = narrow(question, starts);
    if (!next) return { starts, found: culprits[0]!.mods };
    const outcome = isBroken(next.on) ? 'fails' : 'runs';
    starts.push({ on: next.on, outcome: said(starts.length) ? outcome : 'cannot-tell' });
  }
  return { starts, found: undefined };
}

describe('narrowing down', () => {
  it('asks only for sets of mods that have all they need, and ends at the culprit or what cannot be told from it', () => {
    fc.assert(
      fc.property(questions, fc.nat(), (question, wish) => {
        const culprit = wish % question.weights.length;
        const { starts, found } = narrowedDown(question, (on) => on[culprit] === 1);
        for (const { on } of starts)
          question.needs.forEach((needs, mod) => {
            if (on[mod]) expect(needs.every((need) => on[need] === 1)).toBe(true);
          });
        expect(found).toEqual([culprit]);
      }),
      { numRuns: cases(40) },
    );
  });

  it('finds two that fail only together, passing over starts of which nobody can tell anything', () => {
    fc.assert(
      fc.property(fc.integer({ min: 4, max: 40 }), fc.nat(), fc.nat(), (count, a, b) => {
        const [one, other] = [a % count, b % (count - 1)];
        const second = other >= one ? other + 1 : other;
        const question = {
          weights: Array.from({ length: count }, () => 1),
          needs: Array.from({ length: count }, () => []),
        };
        const { found } = narrowedDown(
          question,
          (on) => on[one] === 1 && on[second] === 1,
          (start) => start % 5 !== 4,
        );
        expect(found?.toSorted((x, y) => x - y)).toEqual([one, second].toSorted((x, y) => x - y));
      }),
      { numRuns: cases(20) },
    );
  });

  it('halves what is suspected with each start, where no mod needs another', () => {
    const question = { weights: Array.from({ length: 32 }, () => 1), needs: Array.from({ length: 32 }, () => []) };
    for (const culprit of [0, 13, 31]) {
      const { starts, found } = narrowedDown(question, (on) => on[culprit] === 1);
      expect(found).toEqual([culprit]);
      // Five halve 32 down to one; that no two of them fail together takes one more.
      expect(starts.length).toBeLessThanOrEqual(6);
    }
  });

  it('tells that it is none of the mods where the game fails without any', () => {
    const question = { weights: [1, 1, 1, 1], needs: [[], [], [], []] };
    expect(narrowedDown(question, () => true).found).toEqual([]);
  });

  it('asks for what is suspected, and the same again for the same', () => {
    const question = { weights: [1, 1, 50, 1, 1, 1, 1, 1], needs: Array.from({ length: 8 }, () => []) };
    const { next, involved } = narrow(question, []);
    expect(involved.indexOf(Math.max(...involved))).toBe(2);
    expect(next?.on).toEqual(narrow(question, []).next?.on);
    expect(next!.on.filter((on) => on === 1).length).toBeLessThan(8);
    expect(next!.fails).toBeGreaterThan(0.3);
  });
});

it('each sign makes a mod more suspicious, and none takes from another', () => {
  for (const sign of SIGNS) {
    expect(weightOf([sign])).toBeGreaterThan(weightOf([]));
    for (const other of SIGNS) if (other !== sign) expect(weightOf([sign, other])).toBeGreaterThan(weightOf([other]));
  }
});

it('what changed since the game last ran is told mod by mod', () => {
  expect(
    changedSince(
      [
        ['a', '1'],
        ['b', '1'],
        ['c', '1'],
      ],
      [
        ['b', '2'],
        ['c', '1'],
        ['d', '1'],
      ],
    ),
  ).toEqual({ added: ['d'], updated: ['b'], gone: ['a'] });
});
