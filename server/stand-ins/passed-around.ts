import { Uint8ArrayReader, Uint8ArrayWriter, ZipWriter } from '@zip.js/zip.js';
import { Failure } from '#core/failure';
import { DEMO_SEED, PASSED_AROUND, PASSED_LOGS } from '#demo';
import { assertMethod } from '../http/guard';
import { bytesResponse } from './bytes-response';

const ZIPPED = { useWebWorkers: false, lastModDate: new Date(Date.UTC(2026, 7, 2)) };

/** Stand-in for where players pass archives of mods around: each as a ZIP file. */
export async function passedAround(request: Request, path: string): Promise<Response> {
  assertMethod(request, 'GET', 'HEAD');
  const archive = PASSED_AROUND.find(({ name }) => name === path);
  if (!archive) throw new Failure('demo/unknown-file', { path });
  const zip = new ZipWriter(new Uint8ArrayWriter(), ZIPPED);
  for (const file of archive.files(DEMO_SEED)) await zip.add(file.path, new Uint8ArrayReader(file.bytes));
  return bytesResponse(request, await zip.close());
}

/** Stand-in for where players hand over logs. */
export function passedLog(request: Request, path: string): Response {
  assertMethod(request, 'GET', 'HEAD');
  const log = PASSED_LOGS.find(({ name }) => name === path);
  if (!log) throw new Failure('demo/unknown-file', { path });
  return bytesResponse(request, new TextEncoder().encode(log.text));
}
