/**
 * Keeps the latest result of costly, pure work for as long as it is asked of the very same values: of one install after
 * another only the latest counts.
 */
export function keepLast<Asked extends readonly unknown[], Result>(
  work: (...asked: Asked) => Result,
): (...asked: Asked) => Result {
  let last: { readonly asked: Asked; readonly result: Result } | undefined;
  return (...asked) => {
    if (last?.asked.every((one, i) => Object.is(one, asked[i]))) return last.result;
    const result = work(...asked);
    last = { asked, result };
    return result;
  };
}
