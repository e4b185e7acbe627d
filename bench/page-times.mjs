/* What a page takes to answer, measured in the page itself. */

/** Milliseconds from a click until a frame in which `done`, an expression, holds. */
export async function answered(page, act, done) {
  await page.evaluate((source) => {
    const isDone = new Function(`return ${source}`);
    window.answered = new Promise((resolve) =>
      addEventListener(
        'click',
        () => {
          const start = performance.now();
          const look = () =>
            isDone() ? requestAnimationFrame(() => resolve(performance.now() - start)) : requestAnimationFrame(look);
          look();
        },
        { capture: true, once: true },
      ),
    );
  }, done);
  await act();
  return page.evaluate(() => window.answered);
}

/** The longest task of the page's thread while something is done; those below 50 ms are not told. */
export async function longestTask(page, act) {
  await page.evaluate(() => {
    window.tasks = [];
    window.observer = new PerformanceObserver((list) =>
      window.tasks.push(...list.getEntries().map((entry) => entry.duration)),
    );
    window.observer.observe({ type: 'longtask' });
  });
  await act();
  await page.waitForTimeout(500);
  return page.evaluate(() => (window.observer.disconnect(), Math.max(0, ...window.tasks)));
}

/** What another program takes of the machine shows in the worst; what the page takes, in the median. */
export function told(milliseconds) {
  const sorted = milliseconds.toSorted((a, b) => a - b).map(Math.round);
  return { median: sorted[sorted.length >> 1], worst: sorted.at(-1) };
}
