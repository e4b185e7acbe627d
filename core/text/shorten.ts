/**
 * Keeps both ends of a long text, with `…` for what is left out: of a path the folder that one knows and the file's own
 * name. A pair of surrogates is never cut in two.
 * @param most UTF-16 code units of the result, at least 3
 */
export function shortenMiddle(text: string, most: number): string {
  if (text.length <= most) return text;
  const head = Math.floor((most - 1) / 3);
  const tail = most - 1 - head;
  return `${text.slice(0, head).replace(/[\ud800-\udbff]$/, '')}…${text.slice(text.length - tail).replace(/^[\udc00-\udfff]/, '')}`;
}
