import { test } from '@playwright/test';
import { bundle } from '../../scripts/bundle.mjs';
import { expect } from './expect';

type Outcome = { held: number; broken: string[] };

test('every folder adapter holds to its contract, in a worker and in a page', async ({ page }) => {
  const code = await bundle('tests/disk/hold-contract.ts');
  await page.route('**/contract.js', (route) => route.fulfill({ contentType: 'text/javascript', body: code }));
  await page.route('**/contract', (route) => route.fulfill({ contentType: 'text/html', body: '<!doctype html>' }));
  await page.goto('/contract');
  const inWorker = await page.evaluate(
    () =>
      new Promise<Outcome>((resolve, reject) => {
        const worker = new Worker('/contract.js', { type: 'module' });
        worker.onmessage = ({ data }) => resolve(data as Outcome);
        worker.onerror = ({ message }) => reject(new Error(message));
        worker.postMessage('in-worker');
      }),
  );
  await page.addScriptTag({ url: '/contract.js', type: 'module' });
  const inPage = await page.evaluate(() =>
    (globalThis as unknown as { holdContract: (root: string) => Promise<Outcome> }).holdContract('in-page'),
  );
  for (const { held, broken } of [inWorker, inPage]) {
    expect(broken).toEqual([]);
    expect(held).toBeGreaterThanOrEqual(14);
  }
});
