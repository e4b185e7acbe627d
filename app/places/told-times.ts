import type { Install } from '~/store';

/** The time that a file of an install really has, where the disk could not be given it. */
export function toldTimesOf({ toldTimes }: Install): (path: string, modified: number) => number {
  const told = new Map(toldTimes?.times);
  return (path, modified) => (toldTimes && modified <= toldTimes.at ? (told.get(path) ?? modified) : modified);
}
