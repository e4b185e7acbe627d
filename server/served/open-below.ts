import { readdirSync, readFileSync, readlinkSync, statSync } from 'node:fs';
import { setTimeout } from 'node:timers/promises';
import { assertGoing } from '#core/calls';
import { Failure } from '#core/failure';
import { isBelow } from '#core/paths';

/** What another program is doing with a folder. */
interface InUse {
  /** The file, with its whole path. */
  readonly path: string;
  readonly program: string;
  /** The file itself is the program. */
  readonly runs: boolean;
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
      if (path === undefined) continue;
      const program = ifTold(() => readFileSync(`/proc/${pid}/comm`, 'utf8').trim()) ?? pid;
      return { path, program, runs: name === 'exe' };
    }
  }
  return undefined;
}

/** Virus scanners, indexers and backups have a file open for a moment; a game for as long as it runs. */
const LETS_GO_WITHIN = 3000;
const ASKED_AGAIN_AFTER = 150;

/**
 * Waits a little for what other programs have open below a folder.
 * @throws Failure `folder/in-use` where another program runs what lies there, or does not let it go
 */
export async function assertNotInUse(folder: string, signal: AbortSignal): Promise<void> {
  for (const end = performance.now() + LETS_GO_WITHIN; ;) {
    const inUse = inUseBelow(folder);
    if (!inUse) return;
    if (inUse.runs || performance.now() > end)
      throw new Failure('folder/in-use', { path: inUse.path.slice(folder.length + 1), program: inUse.program });
    await setTimeout(ASKED_AGAIN_AFTER, undefined, { signal }).catch(() => assertGoing(signal));
  }
}
