import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type * as demo from '../../demo';
import { bundle } from '../../scripts/bundle.mjs';

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
  const { createDemoWorld, DEMO_SEED, DEPOTS, BUILDS } = (await import(pathToFileURL(module).href)) as typeof demo;
  const world = createDemoWorld(DEMO_SEED);
  for (const [depot, build] of depots) {
    const { id } = DEPOTS.find((one) => one.id === depot)!;
    const { label } = BUILDS.find((one) => one.label === build)!;
    for (const { path } of world.files(label, id)) {
      const place = join(folder, path);
      mkdirSync(dirname(place), { recursive: true });
      writeFileSync(place, world.read(label, id, path));
    }
  }
}
