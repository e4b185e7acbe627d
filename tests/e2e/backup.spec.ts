import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { isSurveyed } from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

test('everything is backed up into a file, and another browser has it from there', async ({ startAt }, info) => {
  const page = await startAt('surveyed');
  await page.goto('/games');
  // No browser that is driven can show a picker: the file is one of the browser's own disk, beside what is backed up.
  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const handle = await root.getFileHandle('backup.zip', { create: true });
    window.showSaveFilePicker = () => Promise.resolve(handle);
  });
  await page.getByRole('button', { name: 'Back up to a file…' }).click();
  await expect(page.getByText(/^Backed up [\d,]+ files/)).toBeVisible();
  const saved = page.waitForEvent('download');
  await page.evaluate(async () => {
    const root = await navigator.storage.getDirectory();
    const link = document.createElement('a');
    link.href = URL.createObjectURL(await (await root.getFileHandle('backup.zip')).getFile());
    link.download = 'backup.zip';
    link.click();
  });
  const file = info.outputPath('backup.zip');
  mkdirSync(dirname(file), { recursive: true });
  await (await saved).saveAs(file);

  const other = await startAt('new');
  await other.goto('/games');
  const broken = info.outputPath('broken.zip');
  writeFileSync(broken, 'no archive');
  const restore = other.locator('input[aria-label="Backup to restore"]');
  await restore.setInputFiles(broken);
  await expect(other.getByText(/cannot be restored: it is no ZIP archive/)).toBeVisible();
  await restore.setInputFiles(file);
  await other.getByRole('button', { name: 'Restore 1 folder' }).click();
  await expect(other.getByText(/^Restored/)).toBeVisible();
  await other
    .getByRole('region', { name: 'Ferrywake' })
    .getByRole('link', { name: /browser disk/ })
    .click();
  await isSurveyed(other);
  await other.getByRole('button', { name: 'Check changed files only' }).click();
  await expect(other.getByText(/Checking changed files: done/)).toBeVisible();
  await isSurveyed(other);
  await other.goto('/games');
  await expect(other.getByRole('region', { name: 'Ferrywake' })).toContainText('browser disk');
  await restore.setInputFiles(file);
  await expect(other.getByText('is here already and stays as it is')).toBeVisible();
});
