/** The numbers in a version, without zeros at the end. */
function numbersOf(text: string): number[] {
  const numbers = (/\d+(?:[.,]\d+)*/.exec(text.replaceAll(/\s/g, ''))?.[0] ?? '')
    .split(/[.,]/)
    .filter(Boolean)
    .map(Number);
  while (numbers.at(-1) === 0) numbers.pop();
  return numbers;
}

/**
 * Whether what a program says of itself can be the build of a label: one may tell less than the other, `2.9` of `2.9.4`, or
 * more. Undefined where one of them has no number to go by.
 */
export function versionAgrees(said: string, label: string): boolean | undefined {
  if (said.trim() === label.trim()) return true;
  const [a, b] = [numbersOf(said), numbersOf(label)];
  if (a.length === 0 || b.length === 0) return undefined;
  return Array.from({ length: Math.min(a.length, b.length) }, (_, i) => a[i] === b[i]).every(Boolean);
}
