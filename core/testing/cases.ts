/**
 * How many cases a generated test tries: `count`, a size that has found things and takes seconds, times CASES of the
 * environment, for a sweep by hand (`CASES=20 npx vitest run core/merge`).
 */
export const cases = (count: number): number => Math.ceil(count * Number(process.env['CASES'] ?? 1));
