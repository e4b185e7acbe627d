import { chromium } from '@playwright/test';
import { TextReader, Uint8ArrayWriter, ZipWriter } from '@zip.js/zip.js';

/*
 * Takes the pictures in docs/screenshots from a running demo: node scripts/screenshots.mjs http://127.0.0.1:4173
 * One browser profile goes the whole way, so that every picture shows what was really computed.
 */
const base = process.argv[2] ?? 'http://127.0.0.1:4173';
const folder = new URL('../docs/screenshots/', import.meta.url).pathname;
const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox', '--disable-gpu'] });
const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
page.setDefaultTimeout(60_000);

const take = async (name, scheme = 'light') => {
  await page.emulateMedia({ colorScheme: scheme });
  await page.waitForTimeout(400);
  await page.screenshot({ path: `${folder}${name}.png` });
};
/** An archive of made-up files, as a page is given one. */
async function archive(name, files) {
  const writer = new ZipWriter(new Uint8ArrayWriter());
  for (const [path, text] of Object.entries(files)) await writer.add(path, new TextReader(text));
  return { name, mimeType: 'application/zip', buffer: Buffer.from(await writer.close()) };
}
const button = (name) => page.getByRole('button', { name });
const stage = async (name) => {
  await page
    .getByRole('navigation', { name: 'Stages' })
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .click();
  await page.getByRole('main', { name }).waitFor();
};

await page.goto(`${base}/games`);
await page.getByLabel('Title').fill('Glass Orchard');
await button('Add this game').click();
await page.getByRole('heading', { name: 'Sources' }).waitFor();
await take('game');
await page.goto(`${base}/demo`);
await button(/Check every file/).waitFor();
await button('Take a quick look').click();
await page.getByRole('heading', { name: 'This looks like 3.1.1' }).waitFor();
await take('survey-quick-look');
await page.getByRole('link', { name: 'Ferrywake', exact: true }).click();
await page.getByRole('heading', { name: 'Add a folder' }).waitFor();
await take('folders');
await stage('Survey');
await button(/Check every file/).click();
await page.getByRole('region', { name: 'Files' }).waitFor();
await page
  .getByRole('group', { name: /by bytes/ })
  .getByRole('link', { name: /^tables:/ })
  .focus();
await take('survey');
await page.getByRole('link', { name: 'Review and clean up' }).click();
await page.getByRole('region', { name: 'Files to clean up' }).waitFor();
await take('clean-up');
await stage('Choose');
await page.getByRole('link', { name: 'Add mods' }).click();
await page
  .getByLabel('or paste it')
  .fill(
    [
      'Name;Version;Supported builds;Needs;Uses;Weight',
      'Lantern glow;1.0;up to 2.9.4;Towline 1.12 to 1.14;;spare',
      'Lantern glow;1.1;2.9.4 to 3.1.0;Towline;Fog over the Reach;spare',
      'Keel noise;0.3;4.0;Nobody 2;;want',
    ].join('\n'),
  );
await button('Read the pasted table').click();
await page.getByRole('heading', { name: 'pasted table' }).waitFor();
await take('mods');
await stage('Choose');
await page.getByRole('link', { name: /^2\.9\.4, / }).click();
await button('Select build 2.9.4').click();
await button('Build 2.9.4 is selected').waitFor();
await page.getByRole('link', { name: /^Honest fuel/ }).click();
await page.getByText('Evidence at 2.9.4').waitFor();
await take('choose');
await stage('Fetch');
await page.getByLabel(/^Name/).fill('ferryhand');
await page.getByLabel(/^Passphrase/).fill('lantern-over-water');
await button('Request a one-time code').click();
await button('Stand-ins').click();
const code = page.getByTestId('one-time-code');
await code.filter({ hasText: /\d{6}/ }).waitFor();
await page.getByRole('textbox', { name: /^One-time code/ }).fill(await code.textContent());
await button('Sign in with this code').click();
await page.getByText('as ferryhand.').waitFor();
await page.getByText(/^Asking what the source/).waitFor({ state: 'hidden' });
await page.getByLabel(/^Delay each answer/).fill('250');
await page.getByText('Settings applied.').waitFor();
await button('Close the stand-ins').click();
await button(/^Fetch [\d.]+ .?B of/).click();
await page.getByText(/^[1-9]\d* of \d+ · /).waitFor();
await page.waitForTimeout(1000);
await take('fetch');
await page.getByText(/Everything for .* is on this disk/).waitFor();
await stage('Assemble');
await button(/^Lay down/).waitFor();
// The chart comes when the page has been drawn.
await page.getByRole('region', { name: 'Assemble: what is selected' }).locator('svg').first().waitFor();
await take('assemble', 'dark');
await button(/^Lay down/).click();
await page.getByText('in place, byte for byte').waitFor();
await button('Start the game').click();
await page.getByText(/Title screen/).waitFor();
await stage('Hold');
await button(/^Hold 2/).click();
await page.getByText('Nothing has drifted.').waitFor();
await take('hold');
await button(/^Keep 2\.9\.4, /).click();
await page.getByText(/Keeping 2\.9\.4: done/).waitFor();
await page.getByRole('link', { name: 'History', exact: true }).click();
await page.getByRole('link', { name: /^Laid down/ }).click();
await page.getByRole('region', { name: 'Files of this change' }).waitFor();
await take('history');
await page.getByRole('link', { name: 'Shelf', exact: true }).click();
const told = (id, name, version) => JSON.stringify({ id, name, version });
await page
  .getByLabel('Archives of mods')
  .first()
  .setInputFiles([
    await archive('Mist_Banks-v0.3.zip', {
      'Mist Banks/mod.json': told('mist-banks', 'Mist banks', '0.3'),
      'Mist Banks/mist.fwm': 'mist',
    }),
    await archive('Sail cloth 2.1.zip', {
      'plain/mod.json': told('sail-cloth', 'Sail cloth', '2.1'),
      'plain/cloth.fwm': 'plain',
      'striped/mod.json': told('sail-cloth', 'Sail cloth', '2.1'),
      'striped/cloth.fwm': 'striped',
    }),
  ]);
await page.getByRole('article', { name: 'Sail cloth' }).waitFor();
await take('shelf');
await button('Cancel').click();
await page.getByRole('link', { name: 'Keepsakes', exact: true }).click();
await button(/^Keep \d+ files as they are now/).click();
await page
  .getByRole('link', { name: /^Kept by hand|Kept by hand/ })
  .first()
  .waitFor();
// A save is played on, another one is lost.
await page.evaluate(async () => {
  const disk = await (
    await (await navigator.storage.getDirectory()).getDirectoryHandle('installs')
  ).getDirectoryHandle('ferrywake');
  const trees = await disk.getDirectoryHandle('trees');
  for await (const tree of trees.values()) {
    const saves = await tree.getDirectoryHandle('saves').catch(() => undefined);
    if (!saves) continue;
    const stream = await (await saves.getFileHandle('voyage-6.fws')).createWritable();
    await stream.write(new Uint8Array(230_000));
    await stream.close();
    await saves.removeEntry('voyage-2.fws').catch(() => undefined);
  }
});
await page.reload();
await page.getByRole('region', { name: 'Kept files' }).waitFor();
await take('keepsakes');
await button(/^Put \d+ files back/).click();
await page.getByText(/Putting files back: done/).waitFor();
await stage('Hold');
await button(/^Release the hold on 2\.9\.4/).click();
await page.getByText('Not held').first().waitFor();
await page.getByRole('link', { name: 'First', exact: true }).click();
const form = page.locator('form').filter({ has: button(/^Make /) });
await form.getByLabel('Name').fill('Unmodded');
await form.getByLabel('Build').first().click();
await page.getByRole('option', { name: /^3\.1\.1/ }).click();
await form.getByLabel('Mods').first().click();
await page.getByRole('option', { name: 'none' }).click();
await button('Make Unmodded').click();
await page.getByRole('region', { name: 'Mods of both profiles' }).waitFor();
await take('profiles');
await button('Stand-ins').click();
await button('Release 3.2.0 on main').click();
await button('3.2.0 is out').waitFor();
await button('Close the stand-ins').click();
await stage('Mend');
await page.getByRole('link', { name: /Crew rosters/ }).click();
await take('mend');
await page.keyboard.press('o');
await page.getByRole('region', { name: 'Mods in load order' }).getByRole('link').nth(4).click();
await take('order', 'dark');
await page.goto(`${base}/ferrywake/carry?build=3.1.1&mod=lockkeeper-routes`);
// What of both builds lies on the disk already, or is kept, needs no fetching.
await button(/^Fetch [\d.]+ .?B$|^Keep the mod’s/)
  .first()
  .waitFor();
if (await button(/^Fetch [\d.]+ .?B$/).isVisible()) await button(/^Fetch [\d.]+ .?B$/).click();
await button(/^Keep the mod’s/).click();
await page.getByRole('link', { name: /locks\.csv 1 to decide/ }).waitFor();
await take('carry');
await page.goto(`${base}/ferrywake/narrow`);
await page.getByLabel(/^Something else/).check();
await page.getByLabel(/^What is to be seen/).fill('Ferries stop at the first lock');
await button('Begin').click();
const starts = page.getByRole('list', { name: 'Starts so far' }).getByRole('listitem');
for (const [i, outcome] of ['It runs', 'It fails', 'Cannot tell', 'It fails'].entries()) {
  await starts.nth(i).waitFor();
  const change = button(/^Switch mods for start/);
  await change.or(button(outcome)).first().waitFor();
  if (await change.isVisible()) await change.click();
  await button(outcome).click({ timeout: 120_000 });
}
await starts.nth(4).waitFor();
await take('narrow');
await button('End it, and put all back').click();
await page.getByRole('heading', { name: 'What breaks the game?' }).waitFor();
await page.goto(`${base}/games`);
await page.getByRole('heading', { name: 'Your games' }).waitFor();
await take('games');
await browser.close();
