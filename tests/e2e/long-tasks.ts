import type { Page } from '@playwright/test';

interface Watched {
  longTasks?: { at: number; duration: number }[];
}

/** Notes every task of the main thread over 50 ms from now on, on each page that opens. */
export async function watchLongTasks(page: Page): Promise<void> {
  await page.addInitScript(() => {
    const watched = window as Watched;
    const tasks: NonNullable<Watched['longTasks']> = [];
    watched.longTasks = tasks;
    new PerformanceObserver((list) => {
      for (const { startTime, duration } of list.getEntries()) tasks.push({ at: startTime, duration });
    }).observe({ type: 'longtask', buffered: true });
  });
}

/** Forgets what was noted, so that what follows is measured alone. */
export async function forgetLongTasks(page: Page): Promise<void> {
  await page.evaluate(() => void ((window as Watched).longTasks!.length = 0));
}

/** The longest task since, in milliseconds; 0 where none was over 50 ms. */
export function longestTask(page: Page): Promise<number> {
  return page.evaluate(() => Math.max(0, ...(window as Watched).longTasks!.map(({ duration }) => duration)));
}
