import {
  choose,
  closeStandIns,
  fetchAll,
  layDown,
  open,
  openStandIns,
  setSwitch,
  putIntoFolder,
  signIn,
  startGame,
} from './demo-way';
import { expect } from './expect';
import { test } from './start-at';

test('a faulty, slow service and reloads in the middle cost nothing that was right already', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await choose(page, '2.9.4');
  await signIn(page);
  // That a service gives no parts of files is said before anything is fetched of it.
  const whole = page.getByRole('alert').or(page.getByRole('status')).filter({ hasText: 'gives nothing in parts' });
  await expect(whole).toBeHidden();
  await openStandIns(page);
  await setSwitch(page, 'Send whole files only', true);
  await page.reload();
  await expect(whole).toBeVisible();
  await openStandIns(page);
  await setSwitch(page, 'Send whole files only', false);
  await page.getByLabel(/^Delay each answer/).fill('150');
  await page.getByLabel(/Fail every/).fill('7');
  await page.getByLabel(/Corrupt every/).fill('9');
  await page.getByLabel('Always corrupt').fill('tile-010');
  await expect(page.getByLabel('Always corrupt')).toHaveValue('tile-010');
  await closeStandIns(page);
  await page.reload();

  await open(page, 'Fetch');
  await expect(whole).toBeHidden();
  await page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ }).click();
  const tray = page.getByRole('contentinfo', { name: 'Jobs' });
  const part = tray.getByText(/^[2-9]\d of \d+/);
  await expect(part).toBeVisible();
  const all = Number(/of (\d+)/.exec((await part.textContent())!)![1]);
  await page.reload();
  // It goes on by itself, and what arrived is no longer among what is to come.
  const left = tray.getByText(/^\d+ of \d+ · /);
  await expect(left).toBeVisible();
  expect(Number(/of (\d+) ·/.exec((await left.textContent())!)![1])).toBeLessThanOrEqual(all - 15);

  await tray.getByRole('button', { name: 'Pause' }).click();
  await expect(tray.getByText(/: paused/)).toBeVisible();
  await page.reload();
  await expect(tray.getByText(/: paused/)).toBeVisible();
  // The sign-in ends meanwhile: with another one the fetch goes on by itself.
  await openStandIns(page);
  await page.getByRole('button', { name: 'End all sessions' }).click();
  await closeStandIns(page);
  await tray.getByRole('button', { name: 'Resume' }).click();
  await expect(tray.getByText(/: failed/)).toBeVisible();
  await signIn(page);
  // One file never comes right: it is named, and everything else is here.
  await expect(
    page.getByRole('alert').filter({ hasText: '"world/east/tile-010.map" could not be fetched' }),
  ).toBeVisible();
  await expect(page.getByRole('button', { name: /^Fetch [\d.]+ kB of 2\.9\.4/ })).toBeVisible();
  // What has come can be laid down without it.
  await page.getByRole('link', { name: 'Lay down everything else for now' }).click();
  await page.getByRole('button', { name: 'Lay down 2.9.4 beside 3.1.1, without 1 file' }).click();
  await expect(tray.getByText(/Writing 2\.9\.4 beside|Checking 2\.9\.4 whole/)).toBeVisible();
  await page.reload();
  await expect(page.getByText('Everything else is in place.')).toBeVisible();
  await open(page, 'Survey');
  await expect(page.getByText('26 of 27').first()).toBeVisible();
  await open(page, 'Fetch');
  await openStandIns(page);
  await page.getByLabel('Always corrupt').fill('');
  await closeStandIns(page);
  await page.getByRole('button', { name: /^Fetch [\d.]+ kB of 2\.9\.4/ }).click();
  await expect(page.getByText(/Everything for .* is on this disk/)).toBeVisible();
  await page.getByText(/^Earlier fetches/).click();
  await expect(page.getByRole('table').getByRole('row', { name: /2\.9\.4 incomplete/ })).toContainText(String(all));

  await open(page, 'Assemble');
  await page.getByRole('button', { name: /^Lay down 2\.9\.4/ }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  await startGame(page);
  await expect(page.getByText(/Title screen of 2\.9\.4, 38 mods loaded/)).toBeVisible();
});

test('a mod of one’s own goes along, cancelling leaves the folder as it was, and a second tab sees it', async ({
  startAt,
}) => {
  const page = await startAt('surveyed');
  await putIntoFolder(page, 'mods/keel-noise/mod.json', '{ "name": "Keel noise" }');
  await putIntoFolder(page, 'mods/keel-noise/hum.snd', 'hum '.repeat(400_000));
  await page.getByRole('button', { name: 'Check changed files only' }).click();
  await expect(page.getByText(/\d not read again: same size and time/)).toBeVisible();
  await open(page, 'Choose');
  await page.getByRole('link', { name: 'Add mods' }).click();
  await page.getByRole('button', { name: 'Describe the mod in mods/keel-noise' }).click();
  await expect(page.getByText('With the 2 files in mods/keel-noise')).toBeVisible();
  await page.getByLabel('Release').fill('0.3');
  await page.getByLabel('Supported builds').fill('up to 2.9.4');
  await page.getByRole('button', { name: 'Add this release' }).click();
  await expect(page.getByText('keel-noise 0.3 was added to your mods.')).toBeVisible();
  await expect(page.getByText('Every file belongs to a known mod.')).toBeVisible();
  await choose(page, '2.9.4');
  await signIn(page);
  await fetchAll(page);
  const second = await page.context().newPage();
  await second.goto('/ferrywake/assemble');
  await open(page, 'Assemble');
  await page.getByRole('button', { name: /^Lay down 2\.9\.4/ }).click();
  const elsewhere = second.getByRole('contentinfo', { name: 'Jobs' });
  await elsewhere.getByRole('button', { name: 'Cancel' }).click();
  await expect(elsewhere.getByText(/: cancelled/)).toBeVisible();
  await expect(page.getByRole('button', { name: 'Lay down 2.9.4 beside 3.1.1' })).toBeEnabled();
  await second.close();
  await layDown(page, '2.9.4');
  await startGame(page);
  const log = page.getByRole('region', { name: 'Log of the game', includeHidden: true });
  await expect(log).toContainText('mods/keel-noise: in no catalogue, taken as it is');
});

test('a profile is switched while the browser goes away, and the way back brings the saves', async ({ startAt }) => {
  const page = await startAt('surveyed');
  await signIn(page);
  await page.getByRole('link', { name: 'First', exact: true }).click();
  const form = page.locator('form').filter({ has: page.getByRole('button', { name: /^Make / }) });
  await form.getByLabel('Name').fill('Calm');
  await form.getByLabel('Mods').first().click();
  await page.getByRole('option', { name: 'none' }).click();
  await form.getByLabel(/^Start without/).check();
  await form.getByRole('button', { name: 'Make Calm' }).click();
  await expect(page.getByText('103 files set aside')).toBeVisible();
  await page.getByRole('button', { name: /^Switch to Calm/ }).click();
  // Once it is written down it goes on, however little of it has been done.
  await expect(page.getByRole('contentinfo', { name: 'Jobs' })).toContainText(/Switching|Reading saves|Keeping|Fetch/);
  await page.goto('about:blank');
  await page.goto('/ferrywake/profiles?profile=first');
  const builds = page.getByRole('region', { name: 'Builds' });
  await expect(builds.getByRole('link', { name: 'Calm', exact: true })).toBeVisible();
  await page.getByRole('banner').getByRole('link', { name: 'Keepsakes' }).click();
  await expect(page.getByRole('button', { name: 'Keep 4 files as they are now' })).toBeVisible();
  await expect(page.getByText('The files of First lie in it')).toBeVisible();
  await page.goto('/ferrywake/profiles?profile=first');
  await page.getByRole('button', { name: /^Switch to First/ }).click();
  await expect(builds.getByRole('link', { name: 'First', exact: true })).toBeVisible();
  await page.getByRole('banner').getByRole('link', { name: 'Keepsakes' }).click();
  await expect(page.getByRole('button', { name: 'Keep 10 files as they are now' })).toBeVisible();
  await open(page, 'Survey');
  await page
    .getByRole('button', { name: /Check every file|Check changed files only/ })
    .first()
    .click();
  await expect(page.getByRole('heading', { name: '3.1.1' })).toBeVisible();
});
