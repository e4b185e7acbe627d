import { FOLDER_CONTRACT } from '../../app/folders/contract';
import { browserDisk } from '../../app/folders/browser-disk';

/** Holds the browser disk to the folder contract, each promise on a folder of its own; answers what was broken. */
async function holdContract(root: string): Promise<{ held: number; broken: string[] }> {
  const broken: string[] = [];
  for (const [i, { name, hold }] of FOLDER_CONTRACT.entries()) {
    await hold(browserDisk(`${root}/${i}`)).catch((error: unknown) => broken.push(`${name}: ${String(error)}`));
  }
  return { held: FOLDER_CONTRACT.length, broken };
}

// The same module runs in a page, which calls it by name, and in a worker, which answers a message.
Object.assign(globalThis, { holdContract });
onmessage = async ({ data }: MessageEvent<string>) => postMessage(await holdContract(data));
