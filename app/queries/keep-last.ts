/**
 * Keeps the latest results of costly, pure work for as long as it is asked of the very same values: of one install after
 * another only the latest counts.
 * What was promised and failed is worked out again.
 * @param most results that are kept, of those asked for last
 */
export function keepLast<Asked extends readonly unknown[], Result>(
  work: (...asked: Asked) => Result,
  most = 1,
): (...asked: Asked) => Result {
  let kept: { readonly asked: Asked; readonly result: Result }[] = [];
  return (...asked) => {
    const same = kept.find(
      (one) => one.asked.length === asked.length && one.asked.every((value, i) => Object.is(value, asked[i])),
    );
    const latest = same ?? { asked, result: work(...asked) };
    kept = [latest, ...kept.filter((one) => one !== same)].slice(0, most);
    if (!same && latest.result instanceof Promise) {
      latest.result.catch(() => (kept = kept.filter((one) => one !== latest)));
    }
    return latest.result;
  };
}
