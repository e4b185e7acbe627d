import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type * as demo from '../../demo';
import { bundle } from '../../scripts/bundle.mjs';
import { DEMO_BYTES, DEMO_FILES } from './served-root';

/** What a person has who owns no add-on. */
export const DEPOTS = [
  'core',
  'core-fixes',
  'program',
  'world-east',
  'world-west',
  'fine-textures',
  'voices-en',
  'winter-ice',
];

/** Path and SHA-256 of all that lies in a folder, but for a store. */
export const digestsOf = (folder: string): string =>
  execFileSync('sh', ['-c', "find . -type f -not -path './regressum-store/*' -exec sha256sum {} + | sort -k2"], {
    cwd: folder,
    maxBuffer: 1 << 26,
  }).toString();

/**
 * Writes depots of the demo's game as a folder, later ones over earlier ones.
 * @param work a folder for what is only needed to make it
 */
export async function writeDemoTree(
  work: string,
  folder: string,
  depots: readonly [depot: string, build: string][],
): Promise<void> {
  const module = join(work, 'demo.mjs');
  writeFileSync(module, await bundle('demo/index.ts', { forNode: true }));
  const { createDemoWorld, DEMO_SEED, DEPOTS: all, BUILDS } = (await import(pathToFileURL(module).href)) as typeof demo;
  const world = createDemoWorld(DEMO_SEED, { files: DEMO_FILES, bytes: DEMO_BYTES });
  for (const [depot, build] of depots) {
    const { id } = all.find((one) => one.id === depot)!;
    const { label } = BUILDS.find((one) => one.label === build)!;
    for (const { path } of world.files(label, id)) {
      const place = join(folder, path);
      mkdirSync(dirname(place), { recursive: true });
      writeFileSync(place, world.read(label, id, path));
    }
  }
}
