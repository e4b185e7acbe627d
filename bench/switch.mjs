import { join } from 'node:path';
import { copyAndSync, digits, end, filesBelow, median, tell, tool, workFolder } from './kit.mjs';
import { makeModdedGame, openModdedGame } from './own-game.mjs';

/*
 * node bench/switch.mjs [MODS] [FILES] [ROUNDS]
 * Switches a served folder between a profile with MODS (300) mods of FILES (20,000) files in all and one without, there and back,
 * ROUNDS (3) times, by the interface: seconds from the click until the job has ended, all that is kept before and noted after
 * included. Reference in the same run: `cp -r` of the files that differ, and `sync` of the copy. Works in TMPDIR, needs a build and
 * Chromium. Prints one line of JSON.
 */
const [mods = '300', files = '20000', rounds = '3'] = process.argv.slice(2);
const [MODS, FILES, ROUNDS] = [mods, files, rounds].map(Number);
const PORT = 4194;
const work = workFolder('switch');
const filesOf = (folder) => filesBelow(folder).length;
const reference = () => copyAndSync(join(work, 'mods'), join(work, 'copied'));

const root = makeModdedGame(work, { mods: MODS, files: FILES });
tool('cp', ['-r', join(root, 'mods'), join(work, 'mods')]);
const { page, home } = await openModdedGame(work, PORT);
await page.goto(`${home}/profiles`);
await page.getByLabel('Name', { exact: true }).first().fill('Calm');
await page.getByLabel('Mods').first().click();
await page
  .getByRole('option', { name: /none|without/i })
  .first()
  .click();
await page.getByRole('button', { name: /^Make/ }).first().click();

/** Milliseconds from the click until the job has ended, by the job's own record. */
async function switchTo(name) {
  await page
    .getByRole('link', { name: new RegExp(`^${name}`) })
    .first()
    .click();
  const button = page.getByRole('button', { name: new RegExp(`^Switch to ${name}`) });
  await button.and(page.locator(':enabled')).waitFor();
  await button.click();
  await page
    .getByText(`${name} is in the folder`)
    .or(page.getByRole('link', { name: new RegExp(`^${name}.*in the folder`) }))
    .first()
    .waitFor();
  return page.evaluate(async () => {
    const db = await new Promise((resolve) => {
      const open = indexedDB.open('regressum');
      open.onsuccess = () => resolve(open.result);
    });
    for (;;) {
      const all = await new Promise((resolve) => {
        const ask = db.transaction('jobs').objectStore('jobs').getAll();
        ask.onsuccess = () => resolve(ask.result);
      });
      const last = all.filter(({ kind }) => kind === 'switch-profile').sort((a, b) => b.startedAt - a.startedAt)[0];
      if (last?.state === 'failed') throw new Error(JSON.stringify(last.failure));
      if (last?.endedAt) return (db.close(), (last.endedAt - last.startedAt) / 1000);
      await new Promise((resolve) => setTimeout(resolve, 50));
    }
  });
}
const [away, back, copied] = [[], [], []];
for (let round = 0; round < ROUNDS; round++) {
  copied.push(await reference());
  away.push(await switchTo('Calm'));
  if (filesOf(join(root, 'mods')) > 0) throw new Error('mods are left in the folder');
  copied.push(await reference());
  back.push(await switchTo('First'));
  if (filesOf(join(root, 'mods')) !== filesOf(join(work, 'mods'))) throw new Error('not all mods came back');
}
tool('diff', ['-r', join(work, 'mods'), join(root, 'mods')]);
tell({
  ...{ bench: 'switch', mods: MODS, files: filesOf(join(work, 'mods')), rounds: ROUNDS },
  ...{ awaySeconds: digits(median(away)), backSeconds: digits(median(back)), copySeconds: digits(median(copied)) },
  ...{ awayTimesCopy: digits(median(away) / median(copied)), backTimesCopy: digits(median(back) / median(copied)) },
});
end();
