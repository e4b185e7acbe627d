/** A label in parts: numbers, letters, and whether they stand behind a dash, which marks what comes before the release. */
type Part = { readonly kind: 'early' | 'end' | 'letters' | 'number'; readonly value: string };

/** What is less: `3.0.0-t1` comes before `3.0.0`, that before `3.0.0a`, that before `3.0.0.1`. */
const RANK = { early: 0, end: 1, letters: 2, number: 3 } as const;

function partsOf(label: string): Part[] {
  const [main = '', ...early] = label
    .toLowerCase()
    .replace(/^v(?=\d)/, '')
    .split(/[-~]/);
  const parts = (text: string): Part[] =>
    (text.match(/\d+|[^\d.\s_+]+/g) ?? []).map((value) => ({ kind: /^\d/.test(value) ? 'number' : 'letters', value }));
  return early.length === 0 ? parts(main) : [...parts(main), { kind: 'early', value: '' }, ...parts(early.join('.'))];
}

/**
 * Which of two labels of builds or releases is the older by its spelling: numbers by their value (1.9 before 1.10), a letter
 * behind a number comes later (2.9.4 before 2.9.4a), what stands behind a dash earlier (3.0.0-t1 before 3.0.0). Only for
 * labels of which no catalogue says the order.
 * @returns below 0 where `a` is older, above 0 where `b` is, 0 where the spelling does not tell
 */
export function compareLabels(a: string, b: string): number {
  const [ours, theirs] = [partsOf(a), partsOf(b)];
  const end: Part = { kind: 'end', value: '' };
  for (let i = 0; i < Math.max(ours.length, theirs.length); i++) {
    const [one, other] = [ours[i] ?? end, theirs[i] ?? end];
    if (one.kind !== other.kind) return RANK[one.kind] - RANK[other.kind];
    if (one.kind === 'number' && BigInt(one.value) !== BigInt(other.value)) {
      return BigInt(one.value) < BigInt(other.value) ? -1 : 1;
    }
    if (one.kind === 'letters' && one.value !== other.value) return one.value < other.value ? -1 : 1;
  }
  return 0;
}
