import { z } from 'zod';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { bagName } from '#core/keepsakes';
import { isUnderWay, jobs } from '~/jobs';
import { query } from '~/queries';
import { type Backup, BACKUP_VERSION, BackupSchema, backupText, broadcast, listInstalls, putBackup } from '~/store';
import type { DiskPool } from '~/workers';
import { inPool } from './in-pool';
import { unlessDefect } from './unless-defect';
import { pickSaveFile } from './offers';

/* All that this browser keeps, as one file, and back: for another browser, or for when its data are cleared. */

export interface Going {
  readonly signal: AbortSignal;
  readonly progress: (done: { files: number; bytes: number }) => void;
}

/** How far the worker is, of what it tells. */
const optionsOf = ({ signal, progress }: Going): NonNullable<Parameters<DiskPool['run']>[1]> => ({
  signal,
  progress: (news) => news.kind === 'bytes' && progress(news),
});

export const canBackUp = (): boolean => window.showSaveFilePicker !== undefined;

/** A job that is under way has half a change on the disk. @throws Failure `job/busy` */
function assertIdle(): void {
  if ([...jobs.snapshot().values()].some(isUnderWay)) throw new Failure('job/busy');
}

/**
 * Has the person name a file, and writes everything into it: the browser disk, and what is known of the folders.
 * @returns undefined where they named none
 * @throws Failure `job/busy`, `folder/*`, `job/cancelled`
 */
export async function backUpAll(going: Going): Promise<{ files: number; bytes: number } | undefined> {
  assertIdle();
  const date = new Date().toISOString();
  const name = bagName('regressum', date, 'backup');
  const to = await pickSaveFile(`${name}.zip`);
  if (!to) return undefined;
  const records = await backupText(Date.parse(date));
  const folders = (await listInstalls()).map(({ title }) => title);
  return inPool((pool) =>
    pool.run({ do: 'backup', to, name, info: { what: 'backup', date, folders }, records }, optionsOf(going)),
  );
}

/** What a backup has, and which of its folders are here already. */
export interface BackupOffer {
  readonly file: File;
  readonly at: number;
  readonly files: number;
  readonly bytes: number;
  readonly folders: readonly { readonly id: string; readonly title: string; readonly isHere: boolean }[];
}

async function readBackup(text: string, file: string): Promise<Backup> {
  const { version } = parseJson(text, z.looseObject({ version: z.number() }), file);
  if (version > BACKUP_VERSION) throw new Failure('backup/newer', { found: version, expected: BACKUP_VERSION });
  return parseJson(text, BackupSchema, file);
}

/** Looks into a backup. @throws Failure `backup/*`, `json/*`, `path/*` */
export function lookIntoBackup(file: File): Promise<BackupOffer> {
  return inPool(async (pool) => {
    const { records, ...sum } = await pool.run({ do: 'restore', from: file, installs: undefined });
    const backup = await readBackup(records, file.name);
    const here = new Set((await listInstalls()).map(({ id }) => id));
    const folders = backup.installs.map(({ id, title }) => ({ id, title, isHere: here.has(id) }));
    return { file, at: backup.at, ...sum, folders };
  });
}

/**
 * Brings in what a backup has and this browser does not; folders that are here stay as they are. The records come last:
 * cut off before, nothing is known of it, and doing it again goes on.
 * @throws Failure `job/busy`, `backup/*`, `folder/*`, `job/cancelled`
 */
export async function restoreBackup({ file, folders }: BackupOffer, going: Going): Promise<void> {
  assertIdle();
  const installs = folders.filter(({ isHere }) => !isHere).map(({ id }) => id);
  await inPool(async (pool) => {
    const task = { do: 'restore', from: file, installs } as const;
    const { records } = await pool.run(task, optionsOf(going));
    const backup = await readBackup(records, file.name);
    await putBackup(backup, new Set(installs));
    // What sources tell is in no backup: it is asked for now, and again with the next check where that fails.
    for (const { id } of backup.games) await query('refreshSources', id).catch(unlessDefect);
    for (const id of installs) await query('learn', id).catch(unlessDefect);
  });
  broadcast({ type: 'changed' });
}
