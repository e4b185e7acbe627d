import { arrived, choose, deleteKept, fetchAll, layDown, open, signIn, startGame, surveyed } from './demo-way';
import { expect } from './expect';
import { type Blocking, blockingSince, forgetLongTasks, watchLongTasks } from './long-tasks';
import { test } from './start-at';

/** Of a short work. */
const MOST_BLOCKED_MS = 1000;

/** Of the time that work takes the page may be held up so much: asked for by `bench/free-page.mjs`, on a quiet machine. */
const { REGRESSUM_MOST_BLOCKED: most = 'any' } = process.env;

test('the way back from a self-updated folder leaves the page free, and nothing leaves the machine', async ({
  startAt,
}, info) => {
  const page = await startAt('new');
  const outside: string[] = [];
  page.on('request', (request) => {
    if (!/^(http:\/\/127\.0\.0\.1|blob:|data:)/.test(request.url())) outside.push(request.url());
  });
  await watchLongTasks(page);
  const blocking: Record<string, Blocking> = {};
  const measured = async (work: string, doIt: () => Promise<void>): Promise<void> => {
    await forgetLongTasks(page);
    await doIt();
    blocking[work] = await blockingSince(page);
  };
  await page.goto('/');
  await arrived(page);
  await measured('survey', () => surveyed(page));
  await expect(page.getByText('Your saves')).toBeVisible();
  await expect(page.getByText('Left over from 2.9.4').first()).toBeVisible();
  await expect(page.getByText(/Reed banks lies in the wrong place/)).toBeVisible();
  await expect(page.getByText(/Bell buoys 1.1 lies beside files of 1.0/)).toBeVisible();

  await choose(page, '2.9.4');
  await page.reload();
  await expect(page.getByRole('link', { name: /^2\.9\.4, .*38 of 38 mods run.*target/ })).toBeVisible();
  await signIn(page);
  // To open a page is no part of the work.
  await open(page, 'Fetch');
  await measured('fetch', () => fetchAll(page));
  await measured('assemble', () => layDown(page, '2.9.4'));
  await startGame(page);
  await expect(page.getByText(/Title screen of 2\.9\.4, 38 mods loaded/)).toBeVisible();

  await page.getByRole('button', { name: 'Restore the previous folder' }).click();
  await expect(page.getByRole('button', { name: 'Lay down 2.9.4 beside 3.1.1' })).toBeVisible();
  await page.getByRole('button', { name: 'Restore the previous folder' }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  await page.getByRole('link', { name: 'Open History' }).click();
  await deleteKept(page);
  await expect(page.getByText('in effect, for good').first()).toBeVisible();
  await open(page, 'Survey');
  await expect(page.getByRole('heading', { name: '2.9.4' })).toBeVisible();

  expect(outside).toEqual([]);
  const report = JSON.stringify(blocking);
  info.annotations.push({
    type: 'longest main-thread task (ms) and share of the time in long tasks',
    description: report,
  });
  console.log(`main thread: ${report}`);
  // Of work that takes but seconds, showing how it ended is a tenth.
  for (const [work, { share, sum }] of Object.entries(blocking))
    if (most !== 'any' && sum > MOST_BLOCKED_MS) expect(share, work).toBeLessThan(Number(most));
});
