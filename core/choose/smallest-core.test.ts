import fc from 'fast-check';
import { expect, it } from 'vitest';
import { smallestCore } from './smallest-core';

const ITEMS = Array.from({ length: 12 }, (_, i) => i);

it('finds the fewest items that cannot all hold, whatever contradicts', () => {
  const contradiction = fc.uniqueArray(fc.constantFrom(...ITEMS), { minLength: 1, maxLength: 6 });
  fc.assert(
    fc.property(fc.array(contradiction, { minLength: 1, maxLength: 8 }), fc.boolean(), (contradictions, greedy) => {
      const isImpossible = (items: readonly number[]): boolean =>
        contradictions.some((set) => set.every((item) => items.includes(item)));
      const grown = (items: readonly number[]): Set<number> => {
        const all = new Set(items);
        for (const item of greedy ? ITEMS : []) if (!isImpossible([...all, item])) all.add(item);
        return all;
      };
      const { core, proven } = smallestCore(ITEMS, { isImpossible, grown }, ITEMS);
      // Without growing, each step excludes one set alone, and the search may be stopped.
      if (greedy) expect(proven).toBe(true);
      expect(isImpossible(core)).toBe(true);
      if (proven) expect(core.length).toBe(Math.min(...contradictions.map((set) => set.length)));
    }),
  );
});

it('claims nothing where a question could not be decided', () => {
  const contradictions = { isImpossible: () => undefined, grown: (items: readonly string[]) => new Set(items) };
  expect(smallestCore(['a', 'b'], contradictions, ['a', 'b'])).toEqual({ core: ['a', 'b'], proven: false });
});

it('keeps what is known where there is nothing smaller', () => {
  const contradictions = {
    isImpossible: (items: readonly string[]) => items.length === 2,
    grown: (items: readonly string[]) => new Set(items.length === 0 ? ['a'] : items),
  };
  expect(smallestCore(['a', 'b'], contradictions, ['b', 'a'])).toEqual({ core: ['b', 'a'], proven: true });
});
