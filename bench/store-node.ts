import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { CHANGES_VERSION, type ChangeSet, type Disk, type Step, STORE_FOLDER } from '#core/changes';
import { type Act, carryOut, contentPath, contentSources, makeReference, storeView } from '#core/contents';
import { contentKey, type ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import { holdRoot } from '../server/served/below';
import { enginePorts, hashHere } from '../server/served/engine-ports';
import { NodeDisk } from '../server/served/node-disk';
import { countedDisk } from './counted-disk';
import { randomFrom } from './random';

/* Stores on a real folder, for bench/store and bench/faults: as a server's thread works on them. */

const sha = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');
const keyOf = (text: string): ContentKey => contentKey(Buffer.byteLength(text), [sha(text)]);

function openDisk(folder: string): NodeDisk {
  const root = holdRoot(folder);
  return new NodeDisk({ game: root, folder: '', store: root, storeFolder: STORE_FOLDER, sharedFolder: STORE_FOLDER });
}

/** The disk, which refuses every change after so many, as if the power had gone. */
const refusing = (disk: NodeDisk, after: number): Disk =>
  countedDisk(disk, (change) => {
    if (change > after) throw new Error('the power went');
  });

const portsOn = (disk: Disk, inner: NodeDisk) =>
  enginePorts(disk, { hash: hashHere(inner), signal: new AbortController().signal, progress: () => undefined });

/** Bytes of every file below a folder, as the system tells them. */
function bytesBelow(folder: string): number {
  let sum = 0;
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true }))
    if (entry.isFile()) sum += statSync(join(entry.parentPath, entry.name)).size;
  return sum;
}

interface Outcome {
  readonly acts: number;
  readonly cuts: number;
  /** After how many acts the list's sum was not the disk's. */
  readonly wrongSums: number;
  /** Files that nothing referred to, after acts that none should have left. */
  readonly orphaned: number;
  /** The store's own records at the end, in bytes. */
  readonly recordBytes: number;
}

/** Random change sets, undos, lettings go, keeps and drops on one folder, many of them cut off; after each the sum is compared. */
export async function randomActs(folder: string, acts: number, seed: number): Promise<Outcome> {
  const next = randomFrom(seed);
  const upTo = (n: number): number => Math.floor(next() * n);
  const paths = Array.from({ length: 12 }, (_, i) => `data/f${i}.dat`);
  for (const path of paths) {
    mkdirSync(dirname(join(folder, path)), { recursive: true });
    writeFileSync(join(folder, path), `${path} `.repeat(1 + upTo(400)));
  }
  const told = { acts: 0, cuts: 0, wrongSums: 0, orphaned: 0, recordBytes: 0 };
  const sets: string[] = [];
  let texts = 0;

  async function act(disk: NodeDisk): Promise<Act> {
    const current = await disk.current();
    const tree = `trees/${current}`;
    const there = await disk.list(tree);
    const read = async (path: string): Promise<string> => new TextDecoder().decode(await disk.read(path));
    const wish = next();
    if (wish < 0.5 || sets.length === 0) {
      const id = `s${told.acts}`;
      const some = there.filter(() => next() < 0.4);
      const ready: Step[] = [];
      const single: Step[] = [];
      for (const [i, { path }] of some.entries()) {
        const before = keyOf(await read(path));
        const text = `${++texts} `.repeat(1 + upTo(300));
        if (next() < 0.3) single.push({ do: 'take', path, key: before });
        else {
          const from = `staged/${id}/${i}.dat`;
          ready.push({ do: 'write', text, to: from, key: keyOf(text) });
          single.push({ do: 'place', from, to: path, key: keyOf(text), before });
        }
      }
      if (next() < 0.3) {
        const to = `t${told.acts + 2}`;
        const leaves: [string, ContentKey][] = [];
        ready.length = single.length = 0;
        for (const { path } of there) {
          const [below, key] = [path.slice(tree.length + 1), keyOf(await read(path))];
          leaves.push([below, key]);
          if (next() < 0.8) ready.push({ do: 'copy', from: path, to: `trees/${to}/${below}`, key });
        }
        const text = `${++texts} `.repeat(50);
        ready.push({ do: 'write', text, to: `trees/${to}/new/${texts}.dat`, key: keyOf(text) });
        single.push({ do: 'exchange', from: current, to, leaves });
      }
      sets.push(id);
      const steps = [...ready, ...single];
      const plan: ChangeSet = { version: CHANGES_VERSION, id, at: told.acts, what: 'edit', facts: {}, steps };
      return { act: 'on', set: id, plan };
    }
    if (wish < 0.65) return { act: 'back', set: sets.at(-1)! };
    if (wish < 0.8) return { act: 'let-go', set: sets.splice(upTo(sets.length), 1)[0]! };
    if (wish < 0.9) {
      const some = there.slice(0, 5);
      const from: [ContentKey, string][] = [];
      for (const { path } of some) from.push([keyOf(await read(path)), path]);
      const reason = { kind: 'build', game: 'g', build: 'b' } as const;
      const named = { id: `build-${upTo(3)}`, at: told.acts, reason };
      const reference = await makeReference(
        named,
        from.map(([key]) => key),
        { sha256: async (text) => sha(text) },
      );
      return { act: 'keep', reference, from };
    }
    return { act: 'drop', reference: `build-${upTo(3)}` };
  }

  for (let i = 0; i < acts; i++) {
    const disk = openDisk(folder);
    try {
      const wanted = await act(disk);
      told.acts += 1;
      const isCut = next() < 0.5;
      const failing = isCut ? refusing(disk, upTo(40)) : disk;
      try {
        await carryOut(wanted, portsOn(failing, disk));
      } catch (error) {
        // What cannot be, since another set stands in the way or there is none, is refused as a failure.
        if (!isFailure(error)) told.cuts += 1;
      }
      const { inventory } = await storeView(portsOn(disk, disk), disk.lastKnown);
      const disks = bytesBelow(folder);
      if (inventory.bytes !== disks) {
        told.wrongSums += 1;
        console.error(`seed ${seed}, act ${i} (${wanted.act}): the list says ${inventory.bytes}, the disk ${disks}`);
      }
      const nobodys = inventory.piles.find(({ purpose }) => purpose.kind === 'unclaimed');
      // Of a drop that was cut off what it had still to remove is nobody's, and is cleared away.
      if (nobodys && wanted.act === 'drop') await carryOut({ act: 'clear' }, portsOn(disk, disk));
      else if (nobodys) {
        told.orphaned += nobodys.files;
        console.error(`seed ${seed}, act ${i} (${wanted.act}): ${nobodys.files} files are nobody's`);
      }
      told.recordBytes = inventory.piles.find(({ purpose }) => purpose.kind === 'records')?.bytes ?? 0;
    } finally {
      disk.close();
    }
  }
  return told;
}

/** Puts so many small contents into a store, with one reference to them all. */
export async function fill(folder: string, contents: number): Promise<void> {
  const disk = openDisk(folder);
  const ports = portsOn(disk, disk);
  const store = join(folder, STORE_FOLDER);
  const keys: ContentKey[] = [];
  for (let i = 0; i < contents; i++) keys.push(keyOf(`content ${i}`));
  const reason = { kind: 'build', game: 'g', build: 'b' } as const;
  const reference = await makeReference({ id: 'build-b', at: 0, reason }, keys, ports);
  for (const [i, [name]] of reference.contents.entries()) {
    const path = join(store, contentPath(name));
    if (i < 20_000) mkdirSync(dirname(path), { recursive: true });
    writeFileSync(path, `content ${i}`);
  }
  await carryOut({ act: 'refer', reference }, ports);
  disk.close();
}

/** Seconds that it takes to tell what lies there, and to say where each content is to be had; and the memory taken. */
export async function measure(folder: string): Promise<{ openSeconds: number; planSeconds: number; peakMB: number }> {
  const disk = openDisk(folder);
  const ports = portsOn(disk, disk);
  const idle = process.memoryUsage().rss;
  let peak = idle;
  const watch = setInterval(() => (peak = Math.max(peak, process.memoryUsage().rss)), 20);
  const start = performance.now();
  const view = await storeView(ports, disk.lastKnown);
  const opened = performance.now();
  const sources = await contentSources(ports, disk.lastKnown);
  const planned = performance.now();
  clearInterval(watch);
  peak = Math.max(peak, process.memoryUsage().rss);
  if (view.references[0]?.missing !== 0 || sources.size === 0) throw new Error('not all contents were found');
  disk.close();
  const seconds = (ms: number): number => Math.round(ms) / 1000;
  const peakMB = Math.round((peak - idle) / 1e6);
  return { openSeconds: seconds(opened - start), planSeconds: seconds(planned - opened), peakMB };
}
