import type { HoldSheet } from './sheet';

/** What of the storefront's record stands just now; left out where that cannot be told. */
export interface RecordNow {
  /** Its setting lets no update come by itself. */
  readonly setting?: boolean;
  /** It is read-only. */
  readonly lock?: boolean;
}

/** Means that were in effect when a folder was held, and do not stand any more. */
export function looseMeans({ means }: Pick<HoldSheet, 'means'>, now: RecordNow | undefined): ('setting' | 'lock')[] {
  const loose: ('setting' | 'lock')[] = [];
  if (means.includes('update-setting') && now?.setting === false) loose.push('setting');
  if (means.includes('record-lock') && now?.lock === false) loose.push('lock');
  return loose;
}
