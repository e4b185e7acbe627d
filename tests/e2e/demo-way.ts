import { type Page } from '@playwright/test';
import { expect } from './expect';

/** Waits until the demo's folder is laid out. */
export async function arrived(page: Page): Promise<void> {
  await expect(page.getByRole('button', { name: /Check every file/ })).toBeVisible();
}

/** Surveys the demo's folder as it lay there first. */
export async function surveyed(page: Page): Promise<void> {
  await page.getByRole('button', { name: /Check every file/ }).click();
  await isSurveyed(page);
}

export async function isSurveyed(page: Page): Promise<void> {
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
}

/** Opens a stage and waits for it. */
export async function open(page: Page, stage: string): Promise<void> {
  await page
    .getByRole('navigation', { name: 'Stages' })
    .getByRole('link', { name: new RegExp(`^${stage}`) })
    .click();
  await expect(page.getByRole('main', { name: stage })).toBeVisible();
}

/** Makes a build the target. */
export async function choose(page: Page, build: string): Promise<void> {
  await open(page, 'Choose');
  await page.getByRole('link', { name: new RegExp(`^${build.replaceAll('.', '\\.')}, `) }).click();
  await page.getByRole('button', { name: `Select build ${build}` }).click();
  await expect(page.getByRole('button', { name: `Build ${build} is selected` })).toBeVisible();
}

export async function openStandIns(page: Page): Promise<void> {
  const panel = page.getByRole('complementary', { name: 'Stand-ins' });
  const button = page.getByRole('button', { name: 'Stand-ins', exact: true });
  // After a reload the panel comes a moment later than the button that says that it is open.
  if ((await button.getAttribute('aria-pressed')) !== 'true') await button.click();
  await expect(panel.getByRole('heading', { name: 'Stand-ins' })).toBeVisible();
}

/** Waits until the services have taken what was asked for: the panel shows it before that, and a page that goes takes its requests along. */
async function standInsTook(page: Page): Promise<void> {
  await expect(page.getByRole('complementary', { name: 'Stand-ins' })).toHaveAttribute('aria-busy', 'false');
}

/** Sets a switch of the stand-ins. */
export async function setSwitch(page: Page, label: string, on: boolean): Promise<void> {
  const box = page.getByLabel(label);
  await expect(box).toBeChecked({ checked: !on });
  await box.click();
  await expect(box).toBeChecked({ checked: on });
  await standInsTook(page);
}

/** Closes the panel once the services have taken what was asked for. */
export async function closeStandIns(page: Page): Promise<void> {
  await standInsTook(page);
  await page.getByRole('button', { name: 'Close the stand-ins' }).click();
  // Closing goes through the address and takes a moment: whoever opens it next must not find it still there.
  await expect(page.getByRole('complementary', { name: 'Stand-ins' })).toBeHidden();
}

/** Signs in on the page that asks for it, with the account and the one-time code that the stand-ins show. */
export async function signInHere(page: Page): Promise<void> {
  await page.getByLabel(/^Name/).fill('ferryhand');
  await page.getByLabel(/^Passphrase/).fill('lantern-over-water');
  await page.getByRole('button', { name: 'Request a one-time code' }).click();
  await openStandIns(page);
  const code = page.getByTestId('one-time-code');
  await expect(code).toHaveText(/^\d{6}$/);
  await page.getByRole('textbox', { name: /^One-time code/ }).fill((await code.textContent())!);
  await page.getByRole('button', { name: 'Sign in with this code' }).click();
  await expect(page.getByRole('form', { name: 'Sign in to the depot service' })).toBeHidden();
  await closeStandIns(page);
}

export async function signIn(page: Page): Promise<void> {
  await open(page, 'Fetch');
  await signInHere(page);
  await expect(page.getByText('as ferryhand.')).toBeVisible();
}

export async function fetchAll(page: Page): Promise<void> {
  await open(page, 'Fetch');
  await page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ }).click();
  await expect(page.getByText(/Everything for .* is on this disk/)).toBeVisible();
}

export async function layDown(page: Page, build: string): Promise<void> {
  await open(page, 'Assemble');
  await page.getByRole('button', { name: new RegExp(`^Lay down ${build} beside`) }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
}

export async function startGame(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Start the game' }).click();
}

/** Lets the storefront look at the folder, and answers with what the panel says of it. */
export async function letStorefrontLook(page: Page, says: RegExp): Promise<void> {
  await openStandIns(page);
  await page.getByRole('button', { name: 'Let Quayline check the folder' }).click();
  await expect(page.getByRole('complementary', { name: 'Stand-ins' }).getByText(says)).toBeVisible();
}

/** Writes a file into the demo's folder as it lay there first, past the program. */
export async function putIntoFolder(page: Page, path: string, text: string): Promise<void> {
  await page.evaluate(
    async ([path, text]) => {
      let folder = await navigator.storage.getDirectory();
      const names = ['installs', 'ferrywake', 'trees', 't1', ...path!.split('/')];
      const last = names.pop()!;
      for (const name of names) folder = await folder.getDirectoryHandle(name, { create: true });
      const file = await (await folder.getFileHandle(last, { create: true })).createWritable();
      await file.write(text!);
      await file.close();
    },
    [path, text],
  );
}

/** Drops a text file on the middle of nowhere. */
export async function dropFile(page: Page, name: string, content: string | Buffer): Promise<void> {
  const bytes = [...Buffer.from(content)];
  // A page that has only just come takes nothing yet: whoever takes it keeps the browser from doing so.
  const isTaken = (): Promise<boolean> =>
    page.evaluate(
      ([name, bytes]) => {
        const dataTransfer = new DataTransfer();
        dataTransfer.items.add(new File([new Uint8Array(bytes)], name));
        return !document.body.dispatchEvent(new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer }));
      },
      [name, bytes] as const,
    );
  await expect.poll(isTaken).toBe(true);
}

/** Adds the mods that lie in the folder to those that are wanted. */
export async function wantModsFound(page: Page, count: number): Promise<void> {
  await open(page, 'Choose');
  await page.getByRole('link', { name: 'Add mods' }).click();
  await page.getByRole('button', { name: `Add ${count} mods found there` }).click();
  await expect(page.getByText(`${count} mods of the folder added to your mods.`)).toBeVisible();
}

/**
 * Deletes what the change keeps that History shows: what that loses is named first, and kept in a keepsake.
 * @param lost files that nobody else has
 */
export async function deleteKept(page: Page, lost: readonly string[] = []): Promise<void> {
  const remove = { name: /^Delete what it keeps/ };
  await page.getByRole('button', remove).click();
  await expect(page.getByRole('dialog').getByRole('checkbox')).toHaveCount(lost.length);
  for (const path of lost) await expect(page.getByRole('checkbox', { name: path })).toBeChecked();
  await page.getByRole('dialog').getByRole('button', remove).click();
  await expect(page.getByRole('dialog')).toBeHidden();
}
