import { expect, test } from '@playwright/test';
import { arrived, choose, fetchAll, layDown, signIn } from './demo-way';
import { type Blocking, blockingSince, forgetLongTasks, watchLongTasks } from './long-tasks';

/*
 * Long work is done elsewhere than in the page. The longest task is reported; a machine that is busy with other things
 * stretches it, so what fails is the share of the time that the page could not answer: it stretches alike.
 */
test('long work leaves the page free to answer', async ({ page }, info) => {
  await watchLongTasks(page);
  await arrived(page);
  const blocking: Record<string, Blocking> = {};
  await forgetLongTasks(page);
  await page.getByRole('button', { name: /Hash every file/ }).click();
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
  blocking.survey = await blockingSince(page);
  await choose(page, '2.9.4');
  await signIn(page);
  await forgetLongTasks(page);
  await fetchAll(page);
  blocking.fetch = await blockingSince(page);
  await forgetLongTasks(page);
  await layDown(page, '2.9.4');
  blocking.assemble = await blockingSince(page);
  const report = JSON.stringify(blocking);
  info.annotations.push({
    type: 'longest main-thread task (ms) and share of the time in long tasks',
    description: report,
  });
  console.log(`main thread: ${report}`);
  for (const [work, { share }] of Object.entries(blocking)) expect(share, work).toBeLessThan(0.1);
});
