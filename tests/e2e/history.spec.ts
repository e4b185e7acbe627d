import { type Page } from '@playwright/test';
import {
  choose,
  closeStandIns,
  deleteKept,
  fetchAll,
  layDown,
  letStorefrontLook,
  open,
  openStandIns,
  signIn,
} from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

async function openHistory(page: Page): Promise<void> {
  await page.getByRole('link', { name: 'History', exact: true }).click();
  await expect(page.getByRole('main', { name: 'History' })).toBeVisible();
}

/** Bytes of every file that the page has on the browser's disk. */
const onDisk = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const sizeOf = async (folder: FileSystemDirectoryHandle): Promise<number> => {
      let sum = 0;
      for await (const child of folder.values())
        sum +=
          child.kind === 'file'
            ? (await (child as FileSystemFileHandle).getFile()).size
            : await sizeOf(child as FileSystemDirectoryHandle);
      return sum;
    };
    return sizeOf(await navigator.storage.getDirectory());
  });

/** As the list says it, in steps of 1,000. */
const inMegabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`;

const changes = (page: Page): ReturnType<Page['getByRole']> =>
  page.getByRole('region', { name: 'Changes, newest first' });

test('the folder is cleaned up as one change, and the rows that are not ticked are left alone', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await signIn(page);
  await open(page, 'Survey');
  await page.getByRole('link', { name: 'Review and clean up' }).click();
  const rows = page.getByRole('region', { name: 'Files to clean up' });
  await expect(rows.getByRole('checkbox')).toHaveCount(3);
  await rows.getByRole('checkbox', { name: 'mods/bell-buoys/bell-buoys-1.0.fwm' }).uncheck();
  await page.getByRole('button', { name: /^Set 1 file aside, fetch 1 file/ }).click();
  await expect(rows.getByRole('checkbox')).toHaveCount(1);
  await openHistory(page);
  await expect(changes(page)).toContainText('1 file replaced, 1 file set aside');
  await page.getByRole('button', { name: 'Take it back' }).click();
  await expect(changes(page)).toContainText('taken back');
  await open(page, 'Survey');
  await page.getByRole('button', { name: /^Check every file/ }).click();
  await expect(page.getByRole('link', { name: /^Left over from 2\.9\.4 2 files/ })).toBeVisible();
});

test('a kept build is laid down again after the next update, without a byte from the wire', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await choose(page, '2.9.4');
  await signIn(page);
  await fetchAll(page);
  await layDown(page, '2.9.4');
  await openHistory(page);
  await expect(page.getByText(inMegabytes(await onDisk(page)), { exact: true })).toBeVisible();
  await open(page, 'Assemble');
  await page.getByRole('button', { name: 'Start the game' }).click();
  await page.getByRole('button', { name: /^Keep 2\.9\.4, / }).click();
  await expect(page.getByRole('button', { name: /^Keep 2\.9\.4, / })).toBeHidden();

  await openHistory(page);
  await page.getByRole('link', { name: /Build 2\.9\.4, kept/ }).click();
  await page.getByRole('button', { name: /^Check [\d,]+ contents again/ }).click();
  await expect(page.getByText(/Checking kept contents: done/)).toBeVisible();
  // What the lay-down keeps goes: of the way back nothing is left but the kept build.
  await page.getByRole('link', { name: /Laid down 2\.9\.4/ }).click();
  await deleteKept(page);
  await expect(changes(page)).toContainText('in effect, for good');
  await expect(page.getByText(inMegabytes(await onDisk(page)), { exact: true })).toBeVisible();

  await openStandIns(page);
  await page.getByRole('button', { name: 'Release 3.2.0 on main' }).click();
  await expect(page.getByRole('button', { name: '3.2.0 is out' })).toBeVisible();
  await letStorefrontLook(page, /Quayline updates the folder to 3\.2\.0/);
  await closeStandIns(page);
  await expect(page.getByText(/The storefront updates to 3\.2\.0: done/)).toBeVisible();
  await open(page, 'Survey');
  await page.getByRole('button', { name: /^Check every file/ }).click();
  await expect(page.getByRole('heading', { name: '3.2.0' })).toBeVisible();
  await openHistory(page);
  await expect(changes(page)).toContainText('Updated from 2.9.4 to 3.2.0 by others');

  await open(page, 'Fetch');
  await expect(page.getByText('Everything for 2.9.4 and its mods is on this disk.')).toBeVisible();
  await layDown(page, '2.9.4');
});
