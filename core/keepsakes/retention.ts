import type { KeepsakeHead } from './keepsake';

/** How many keepsakes stay; without a limit as many as there are. */
export interface KeepsakeRules {
  /** The newest so many. */
  readonly keepsakes?: number;
  /** Days. */
  readonly keepsakeDays?: number;
  /** Bytes of the newest together, each counted whole: what several share counts with each. */
  readonly keepsakeBytes?: number;
}

const DAY_MS = 86_400_000;

/**
 * Says which keepsakes rules would have gone: all but the newest, and but those that something needs. Nothing goes by
 * itself.
 * @param keepsakes newest first
 */
export function expiredKeepsakes(
  keepsakes: readonly KeepsakeHead[],
  { keepsakes: most = Infinity, keepsakeDays = Infinity, keepsakeBytes = Infinity }: KeepsakeRules,
  { now, needed }: { readonly now: number; readonly needed: ReadonlySet<string> },
): KeepsakeHead[] {
  let sum = 0;
  return keepsakes.filter(({ id, at, bytes }, i) => {
    sum += bytes;
    const isPast = i >= most || now - at > keepsakeDays * DAY_MS || sum > keepsakeBytes;
    return isPast && i > 0 && !needed.has(id);
  });
}
