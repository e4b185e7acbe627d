import fc from 'fast-check';
import { expect, it } from 'vitest';
import { mergeParts } from '.';
import { cases } from '../testing/cases';

const lines = fc.array(fc.nat({ max: 4 }), { maxLength: 24 });

it('the parts of a merge are all of each sequence, in order, and say truly whose lines count', () => {
  fc.assert(
    fc.property(lines, lines, lines, (...texts) => {
      const parts = mergeParts(...(texts.map((text) => Int32Array.from(text)) as [Int32Array, Int32Array, Int32Array]));
      const names = ['base', 'ours', 'theirs'] as const;
      names.forEach((name, i) => {
        const ranges = parts.map((part) => part[name]);
        expect(ranges.map(([from]) => from)).toEqual([0, ...ranges.map(([, to]) => to)].slice(0, parts.length));
        expect(ranges.at(-1)?.[1] ?? 0).toBe(texts[i]!.length);
      });
      for (const part of parts) {
        const [base, ours, theirs] = names.map((name, i) => texts[i]!.slice(...part[name]).join());
        // What one has as it was, the other's change counts for; what both have alike, counts once.
        const isKept = { ours: base === ours, theirs: base === theirs };
        const claim = { base: [true, true], ours: [false, true], theirs: [true, false] };
        if (part.take === 'same') expect(ours).toBe(theirs);
        else if (part.take === 'conflict') expect(ours).not.toBe(theirs);
        else expect([isKept.ours, isKept.theirs]).toEqual(claim[part.take]);
      }
    }),
    { numRuns: cases(500) },
  );
});
