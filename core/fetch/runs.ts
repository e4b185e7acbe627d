/** Bytes `[start, end)`. */
export interface ByteRange {
  readonly start: number;
  readonly end: number;
}

/** What is asked for in one request: enough that requests cost nothing beside it, so little that a broken one costs little. */
const RUN_BYTES = 32 << 20;

/**
 * Ranges as runs of neighbours that are asked for together.
 * @param ranges in order
 * @param most bytes of a run
 */
export function runsOf(ranges: Iterable<ByteRange>, most = RUN_BYTES): ByteRange[] {
  const runs: { start: number; end: number }[] = [];
  for (const { start, end } of ranges) {
    const last = runs.at(-1);
    if (last?.end === start && end - last.start <= most) last.end = end;
    else runs.push({ start, end });
  }
  return runs;
}
