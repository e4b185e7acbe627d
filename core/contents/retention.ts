import type { StoreView, ToldChange, ToldReference } from './store';

/** How long what is kept stays, per kind; without a limit as long as nobody deletes it. */
export interface RetentionRules {
  /** Days that a change can be taken back. */
  readonly changeDays?: number;
  /** Bytes that changes keep together, the newest first. */
  readonly changeBytes?: number;
  /** Days that what was fetched waits to be laid down. */
  readonly fetchedDays?: number;
  /** Kept builds, the newest first. */
  readonly builds?: number;
}

/** What is past its time. */
export interface Expired {
  readonly changes: readonly ToldChange[];
  readonly fetched: readonly ToldReference[];
  readonly builds: readonly ToldReference[];
}

const DAY_MS = 86_400_000;

/**
 * Says what rules would have gone. Nothing goes by itself: this is shown, and a person deletes it.
 * @param view its history newest first
 */
export function expired(
  { history, references }: Pick<StoreView, 'history' | 'references'>,
  { changeDays, changeBytes = Infinity, fetchedDays, builds }: RetentionRules,
  now: number,
): Expired {
  const isOlder = (at: number, days: number | undefined): boolean => days !== undefined && now - at > days * DAY_MS;
  const ofKind = (kind: ToldReference['reason']['kind']): ToldReference[] =>
    references.filter(({ reason }) => reason.kind === kind).toSorted((a, b) => b.at - a.at);
  let kept = 0;
  // What has not come to its end goes on or back first.
  const isPast = ({ keeps, state, begunAt, at }: ToldChange): boolean => {
    kept += keeps.bytes;
    const isOver = isOlder(begunAt ?? at, changeDays) || kept > changeBytes;
    return isOver && keeps.files > 0 && (state === 'made' || state === 'taken-back');
  };
  return {
    changes: history.filter(isPast),
    fetched: ofKind('fetched').filter(({ at }) => isOlder(at, fetchedDays)),
    builds: builds === undefined ? [] : ofKind('build').slice(builds),
  };
}

/** Kept contents are read again after so long. */
export const CHECK_AGAIN_MS = 30 * DAY_MS;
