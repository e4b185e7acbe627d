import type { BuildLabel } from '#core/builds';
import { query } from '~/queries';
import { broadcast } from '~/store';

/** Adds builds to a game of which nothing but the label is known. */
export async function declareBuilds(game: string, labels: readonly BuildLabel[]): Promise<void> {
  await query('declare', game, labels);
  broadcast({ type: 'changed' });
}

/** Forgets a build that was recorded or declared here. */
export async function forgetRecorded(game: string, label: string): Promise<void> {
  await query('forgetRecorded', game, label);
  broadcast({ type: 'changed' });
}

/** Moves such a build to another date. @param date ISO */
export async function moveRecorded(game: string, label: string, date: string): Promise<void> {
  await query('moveRecorded', game, label, date);
  broadcast({ type: 'changed' });
}

/** What was recorded as one archive, which is a source of manifests once it is unpacked on a web server. */
export async function recordedArchive(game: string): Promise<Blob> {
  const { BlobWriter, TextReader, ZipWriter } = await import('@zip.js/zip.js');
  const zip = new ZipWriter(new BlobWriter('application/zip'), { useWebWorkers: false });
  for (const [path, text] of await query('recordedSource', game)) await zip.add(path, new TextReader(text));
  return zip.close();
}
