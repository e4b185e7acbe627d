import type { Page } from '@playwright/test';

interface Watched {
  longTasks?: { at: number; duration: number }[];
  watchedSince?: number;
}

export interface Blocking {
  /** The longest task, in milliseconds; 0 where none was over 50 ms. */
  readonly longest: number;
  /** All tasks over 50 ms, in milliseconds. */
  readonly sum: number;
  /** Of the time, how much went into them: 0 to 1. */
  readonly share: number;
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
  await page.evaluate(() => {
    const watched = window as Watched;
    watched.longTasks!.length = 0;
    watched.watchedSince = performance.now();
  });
}

/** What was noted since it was last forgotten. */
export function blockingSince(page: Page): Promise<Blocking> {
  return page.evaluate(() => {
    const { longTasks, watchedSince } = window as Watched;
    const durations = longTasks!.map(({ duration }) => duration);
    const sum = durations.reduce((total, duration) => total + duration, 0);
    return { longest: Math.max(0, ...durations), sum, share: sum / (performance.now() - watchedSince!) };
  });
}
