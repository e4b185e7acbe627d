import { openAsBlob, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { type Ground, type ReadArchive, readArchives } from '#core/archives';
import { GameRulesSchema } from '#core/builds';
import type { Catalogue } from '#core/mods';
import { platformSha256 } from '~/remote';
import { lookIntoArchive } from '~/workers/archive-task';

/** Files below a folder, by paths with `/`. */
export const filesBelow = (folder: string): string[] =>
  readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((entry) =>
    entry.isFile() ? [join(entry.parentPath, entry.name).slice(folder.length + 1)] : [],
  );

const noFolder = (): never => {
  throw new Error('Archives alone are read here.');
};

const NO_MODS: Catalogue = { format: 'regressum-mod-catalogue', version: 1, mods: [] };

/** Reads one archive as a page's worker does. @returns it with its bytes, unpacked; or the code of why it cannot be read */
export async function look(
  path: string,
  name: string,
): Promise<{ read: ReadArchive; bytes: number } | { code: string }> {
  let bytes = 0;
  const progress = (news: { readonly kind: string; readonly bytes?: number }): void => void (bytes += news.bytes ?? 0);
  const from = new File([await openAsBlob(path)], name);
  const { signal } = new AbortController();
  try {
    const looked = await lookIntoArchive(
      { do: 'look-into-archive', from },
      { sha256: platformSha256, readerOf: noFolder, progress, signal },
    );
    return { read: { name, ...looked }, bytes };
  } catch (error) {
    return { code: (error as { code?: string }).code ?? String(error) };
  }
}

/**
 * Places what archives have, one by one, as if each had come alone.
 * @param rules of the game, as its file has them
 * @param vanilla files of the game
 */
export function place(
  archives: readonly ReadArchive[],
  rules: unknown,
  vanilla: readonly string[],
): { readonly placed: number; readonly asked: number } {
  const ground: Ground = { rules: GameRulesSchema.parse(rules), vanilla, mods: [] };
  const sure = archives.filter((archive) =>
    readArchives([archive], NO_MODS, ground).drafts.every(({ parts }) => parts.every(({ isSure }) => isSure)),
  ).length;
  return { placed: sure, asked: archives.length - sure };
}
