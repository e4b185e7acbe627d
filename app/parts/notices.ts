/* Notices of the system's own, for who looks elsewhere meanwhile. */

const KEY = 'regressum-tells';

/** Whether this browser has such notices. */
export const canTell = (): boolean => 'Notification' in globalThis;

export const tellsWhenDone = (): boolean =>
  canTell() && localStorage.getItem(KEY) === 'yes' && Notification.permission === 'granted';

/** Asks the browser where that is needed. @returns whether notices are shown from now on */
export async function setTellsWhenDone(tells: boolean): Promise<boolean> {
  const granted = tells && (await Notification.requestPermission()) === 'granted';
  localStorage.setItem(KEY, granted ? 'yes' : 'no');
  return granted;
}

/**
 * Shows a notice to who wants one and does not look at the page anyway.
 * @param tag of what it is about: several pages that tell of the same show one notice
 */
export function tell(title: string, body: string, tag: string): void {
  if (tellsWhenDone() && document.visibilityState === 'hidden') new Notification(title, { body, tag });
}
