/** Lines of a text without their ends, LF or CRLF, one at a time: a text of line ends alone is not split into millions. */
export function* linesOf(text: string): Generator<string> {
  for (let start = 0; start <= text.length;) {
    const newline = text.indexOf('\n', start);
    const end = newline < 0 ? text.length : newline;
    yield text.slice(start, end > start && text[end - 1] === '\r' ? end - 1 : end);
    start = end + 1;
  }
}
