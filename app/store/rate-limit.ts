/* How fast a fetch may be: a matter of this browser's line, so it is kept with the browser and not with a game. */

const KEY = 'regressum-rate-limit';

/** Bytes that may come a second; undefined = as many as the line gives. */
export function rateLimit(): number | undefined {
  const limit = Number(globalThis.localStorage?.getItem(KEY) ?? NaN);
  return limit > 0 ? limit : undefined;
}

/** Holds from the next request on, for a fetch that is under way too. */
export function setRateLimit(bytesPerSecond: number | undefined): void {
  if (bytesPerSecond === undefined) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, String(bytesPerSecond));
}
