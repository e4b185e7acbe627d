import { readdirSync, readFileSync, readlinkSync, statSync } from 'node:fs';
import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';

/** What another program is doing with a folder. */
interface InUse {
  /** The file, with its whole path. */
  readonly path: string;
  readonly program: string;
}

/** The answer of the system; undefined where the process is gone or another person's. */
function ifTold<T>(ask: () => T): T | undefined {
  try {
    return ask();
  } catch {
    return undefined;
  }
}

/** The file that a process runs or has open. */
function fileBelow(folder: string, link: string): string | undefined {
  const path = ifTold(() => readlinkSync(link));
  // A folder that is open harms nothing: a file manager has it so, or a terminal.
  const isFile = path !== undefined && isBelow(path, folder) && ifTold(() => statSync(link).isFile()) === true;
  return isFile ? path : undefined;
}

/**
 * A file below a folder that another program runs or has open: the game or its storefront is at work then. Where the system
 * does not tell (all but Linux), there is none; it refuses then by itself to move what is open.
 * @param folder real path
 */
function inUseBelow(folder: string): InUse | undefined {
  if (process.platform !== 'linux') return undefined;
  const processes = readdirSync('/proc').filter((name) => /^\d+$/.test(name) && Number(name) !== process.pid);
  for (const pid of processes) {
    const descriptors = ifTold(() => readdirSync(`/proc/${pid}/fd`)) ?? [];
    for (const name of ['exe', ...descriptors.map((fd) => `fd/${fd}`)]) {
      const path = fileBelow(folder, `/proc/${pid}/${name}`);
      if (path !== undefined)
        return { path, program: ifTold(() => readFileSync(`/proc/${pid}/comm`, 'utf8').trim()) ?? pid };
    }
  }
  return undefined;
}

/** @throws Failure `folder/in-use` where another program runs or has open what lies below a folder */
export function assertNotInUse(folder: string): void {
  const inUse = inUseBelow(folder);
  if (!inUse) return;
  throw new Failure('folder/in-use', { path: inUse.path.slice(folder.length + 1), program: inUse.program });
}
