import { existsSync, mkdirSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { type Page } from '@playwright/test';
import { arrived, choose, deleteKept, fetchAll, open, signIn } from './demo-way';
import { digestsOf, DEPOTS, writeDemoTree } from './demo-tree';
import { expect } from './expect';
import { copyProfile, profileFolder, test } from './start-at';

/** Lets a page change the folders that it is given, as a person would who allows it. */
function allowChanges(profile: string, origin: string): void {
  const setting = { [`${origin},*`]: { setting: 1 } };
  const exceptions = { file_system_write_guard: setting };
  mkdirSync(join(profile, 'Default'), { recursive: true });
  // Without a network the browser waits five seconds for what its maker says of a file that is written.
  const preferences = { safebrowsing: { enabled: false }, profile: { content_settings: { exceptions } } };
  writeFileSync(join(profile, 'Default/Preferences'), JSON.stringify(preferences));
}

/** Drops a real folder on the window, which gives a page what a picker gives. */
async function drop(page: Page, folder: string): Promise<void> {
  const session = await page.context().newCDPSession(page);
  const data = { items: [], files: [folder], dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const)
    await session.send('Input.dispatchDragEvent', { type, x: 600, y: 400, data });
}

/** Has the page's next picker give a real folder: no browser that is driven can show one. */
async function pickerGives(page: Page, folder: string): Promise<void> {
  const given = page.evaluate(
    () =>
      new Promise<void>((resolve) => {
        const take = (event: DragEvent): void => {
          event.stopImmediatePropagation();
          event.preventDefault();
          const handle = event.dataTransfer!.items[0]!.getAsFileSystemHandle!();
          window.showDirectoryPicker = async () => (await handle) as FileSystemDirectoryHandle;
          resolve();
        };
        addEventListener('drop', take, { capture: true, once: true });
      }),
  );
  await drop(page, folder);
  await given;
}

test('a folder that is dropped on the window is repaired where it lies, and taken back', async ({
  playwright,
  baseURL,
  folderAt,
}, info) => {
  const folder = folderAt();
  const elsewhere = folderAt('-elsewhere');
  mkdirSync(elsewhere, { recursive: true });
  const profile = info.outputPath('profile');
  mkdirSync(profile, { recursive: true });
  copyProfile(profileFolder('arrived'), profile);
  allowChanges(profile, baseURL!);
  await writeDemoTree(
    info.outputPath(),
    folder,
    DEPOTS.map((depot) => [depot, '3.1.1']),
  );
  writeFileSync(join(folder, 'stray file.txt'), 'of nobody');
  const context = await playwright.chromium.launchPersistentContext(profile);
  try {
    const before = digestsOf(folder);
    await context.clearCookies();
    const page = context.pages()[0]!;
    await page.goto('/');
    await arrived(page);
    await drop(page, folder);
    await page.getByRole('button', { name: 'Add it' }).click();
    await page.getByRole('button', { name: `Check every file in ${basename(folder)}` }).click();
    await expect(page.getByRole('heading', { name: '3.1.1', exact: true })).toBeVisible();

    await choose(page, '2.9.4');
    await signIn(page);
    await fetchAll(page);
    await open(page, 'Assemble');
    await page.getByRole('button', { name: 'Lay down 2.9.4 in place' }).click();
    await expect(page.getByText('in place, byte for byte')).toBeVisible();
    expect(existsSync(join(folder, 'stray file.txt'))).toBe(false);
    const laid = digestsOf(folder);
    expect(laid).not.toBe(before);

    await page.getByRole('link', { name: 'History', exact: true }).click();
    // What the change keeps moves to another folder, and is put back from there.
    await pickerGives(page, elsewhere);
    await page.getByRole('button', { name: 'Keep it in another folder…' }).click();
    await expect(page.getByText(`In ${basename(elsewhere)}, beside the game.`)).toBeVisible();
    await expect.poll(() => existsSync(join(folder, 'regressum-store'))).toBe(false);
    const moved = join(elsewhere, `regressum-store-${basename(folder)}`);
    expect(readdirSync(moved).sort()).toEqual(['journal', 'kept', 'mirror.dat']);
    await page.getByRole('button', { name: 'Take it back' }).click();
    await expect(page.getByRole('button', { name: 'Make it again' })).toBeVisible();
    expect(digestsOf(folder)).toBe(before);
    await page.getByRole('button', { name: 'Make it again' }).click();
    await expect(page.getByRole('button', { name: 'Take it back' })).toBeVisible();
    expect(digestsOf(folder)).toBe(laid);
    await deleteKept(page, ['stray file.txt']);
    await expect(page.getByText('in effect, for good').first()).toBeVisible();
    expect(digestsOf(folder)).toBe(laid);
    // What was done is told on, what is known of the folder, and what was nobody else's; nothing else is left in it.
    const store = readdirSync(moved, { recursive: true, withFileTypes: true });
    const left = store.filter((one) => one.isFile()).map(({ name, parentPath }) => `${basename(parentPath)}/${name}`);
    expect(left.map((path) => path.replace(/(history|keepsakes)\/.+/, '$1/one')).sort()).toEqual([
      'history/one',
      'keepsakes/one',
      `${basename(moved)}/mirror.dat`,
    ]);
  } finally {
    await context.close();
    rmSync(profile, { recursive: true, force: true });
  }
});
