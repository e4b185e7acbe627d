const number = new Intl.NumberFormat('en');
const oneDigit = new Intl.NumberFormat('en', { maximumFractionDigits: 1, minimumFractionDigits: 1 });
const relative = new Intl.RelativeTimeFormat('en', { numeric: 'auto' });
const exact = new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'medium' });
const dayAndTime = new Intl.DateTimeFormat('en-GB', {
  ...{ day: 'numeric', month: 'short', year: '2-digit', hour: '2-digit', minute: '2-digit' },
});
const month = new Intl.DateTimeFormat('en', { month: 'short', day: '2-digit', timeZone: 'UTC' });

export const count = (n: number): string => number.format(n);

/** `1 file`, `2 files`. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${count(n)} ${n === 1 ? one : many}`;

/** Bytes in steps of 1,000: `812 B`, `72.4 MB`. */
export function bytes(n: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let value = n;
  let unit = 0;
  while (value >= 999.95 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${unit === 0 ? count(value) : oneDigit.format(value)} ${units[unit]}`;
}

/** `0:21`, `1:02:07`. */
export function duration(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  const [h, m, s] = [Math.floor(whole / 3600), Math.floor(whole / 60) % 60, whole % 60];
  const pad = (n: number): string => String(n).padStart(2, '0');
  return h > 0 ? `${h}:${pad(m)}:${pad(s)}` : `${m}:${pad(s)}`;
}

export function ago(at: number, now: number): string {
  const seconds = Math.round((at - now) / 1000);
  if (Math.abs(seconds) < 60) return relative.format(seconds, 'second');
  if (Math.abs(seconds) < 3600) return relative.format(Math.round(seconds / 60), 'minute');
  if (Math.abs(seconds) < 86_400) return relative.format(Math.round(seconds / 3600), 'hour');
  return relative.format(Math.round(seconds / 86_400), 'day');
}

export const exactTime = (at: number): string => exact.format(at);

/** `27 Nov 26, 12:05`, where the exact time stands elsewhere or would take too much room. */
export const shortTime = (at: number): string => dayAndTime.format(at);

/** `Nov 30` for an ISO date. */
export const shortDay = (date: string): string => month.format(new Date(date));
