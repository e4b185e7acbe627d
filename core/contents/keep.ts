import { type ContentKey, keySize } from '#core/digest';
import { type ChangePorts, notAs, PLACES } from '#core/changes';
import { Failure } from '#core/failure';
import type { FolderEntry } from '#core/folders';
import { arrivingPath, contentNameOf, contentPath } from './names';
import { putReference, readReference, readReferences, type Reference, removeReference } from './references';

/*
 * Puts contents into the store, and takes out what nothing refers to. A reference is written before its contents come, and
 * removed before they go; each content is put in place by one move, when its bytes are right. So whatever is cut off can be
 * done again, and a content that is there under its name was right when it came.
 */

const BATCH_FILES = 200;
const BATCH_BYTES = 64 << 20;

/** What removing needs of the platform. */
type RemovingPorts = Omit<ChangePorts, 'hash' | 'now'>;

function assertGoing({ signal }: Pick<ChangePorts, 'signal'>): void {
  if (signal.aborted) throw new Failure('job/cancelled');
}

/** Contents of the store by name, with their sizes. */
async function contentsThere({ disk }: Pick<ChangePorts, 'disk'>): Promise<Map<string, FolderEntry>> {
  const entries = await disk.list(PLACES.contents);
  return new Map(entries.map((entry) => [contentNameOf(entry.path), entry]));
}

function* batched<T extends readonly [string, ContentKey]>(contents: readonly T[]): Generator<T[]> {
  let batch: T[] = [];
  let bytes = 0;
  for (const one of contents) {
    batch.push(one);
    bytes += keySize(one[1]);
    if (batch.length < BATCH_FILES && bytes < BATCH_BYTES) continue;
    yield batch;
    [batch, bytes] = [[], 0];
  }
  if (batch.length > 0) yield batch;
}

/**
 * Copies contents into the store for a reason, each from where it lies; what is there already, and right, is not copied
 * again. What is kept of a build already stays; any other reason is put in place of the one before.
 * @param from a path on the disk for each key that may be missing in the store
 * @param how whether what lies there stays, or is moved into the store; what turns out to be another content is moved back
 * @throws Failure `folder/not-found` with the first of the contents that lies nowhere, `folder/changed-meanwhile` where
 *   other bytes lie there than were said to; it can be done again after each
 */
export async function keepContents(
  wanted: Reference,
  from: ReadonlyMap<ContentKey, string>,
  ports: ChangePorts,
  how: 'copy' | 'move' = 'copy',
): Promise<void> {
  const { disk } = ports;
  const before = wanted.reason.kind === 'build' ? ((await readReference(ports, wanted.id))?.contents ?? []) : [];
  const { checkedAt: _, ...rest } = wanted;
  // Another language, or another add-on, of the same build may be kept already.
  const reference = { ...rest, contents: [...new Map([...before, ...wanted.contents])] };
  await putReference(ports, reference);
  const missing = await notThere(reference, ports);
  const lost = missing.find(([, key]) => !from.has(key));
  if (lost) throw new Failure('folder/not-found', { path: contentPath(lost[0]), missing: missing.length });
  for (const batch of batched(missing)) {
    try {
      for (const [name, key] of batch) {
        assertGoing(ports);
        await bring(disk, from.get(key)!, arrivingPath(name), how);
      }
      await takeIn(batch, from, ports, how);
    } catch (error) {
      // What was moved and is not in the store yet is somebody's still.
      if (how === 'move') for (const [name, key] of batch) await putBack(disk, arrivingPath(name), from.get(key)!);
      throw error;
    }
  }
  await putReference(ports, { ...reference, checkedAt: ports.now() });
}

/** Copies or moves a file to where contents arrive; one that was moved there before it was cut off lies there. */
async function bring(disk: ChangePorts['disk'], from: string, to: string, how: 'copy' | 'move'): Promise<void> {
  if (how === 'copy') await disk.copy(from, to);
  else if ((await disk.stat(from)) || !(await disk.stat(to))) await disk.move(from, to);
}

async function putBack(disk: ChangePorts['disk'], at: string, to: string): Promise<void> {
  if ((await disk.stat(at)) && !(await disk.stat(to))) await disk.move(at, to);
}

/** Puts contents into the store that have come, each when its bytes are right. @throws Failure `folder/changed-meanwhile` */
async function takeIn(
  batch: readonly (readonly [string, ContentKey])[],
  from: ReadonlyMap<ContentKey, string>,
  ports: ChangePorts,
  how: 'copy' | 'move',
): Promise<void> {
  const { disk } = ports;
  const come = batch.map(([name, key]) => ({ path: arrivingPath(name), key }));
  const wrong = new Set(await notAs(come, ports));
  await disk.sync(come.flatMap(({ path }) => (wrong.has(path) ? [] : [path])));
  let changed: string | undefined;
  for (const [name, key] of batch) {
    if (wrong.has(arrivingPath(name))) {
      changed ??= from.get(key)!;
      if (how === 'copy') await disk.remove(arrivingPath(name));
      continue;
    }
    await disk.move(arrivingPath(name), contentPath(name));
    ports.progress({ files: 1, bytes: keySize(key) });
  }
  if (changed !== undefined) throw new Failure('folder/changed-meanwhile', { path: changed });
}

/**
 * Reads every content of a reference that is there. What is not as it should be is removed, so that nobody uses it.
 * @returns those that are not there, or not any more
 */
async function notThere({ contents }: Pick<Reference, 'contents'>, ports: ChangePorts): Promise<Reference['contents']> {
  const gone: Reference['contents'] = [];
  for (const batch of batched(contents)) {
    assertGoing(ports);
    const wrong = new Set(
      await notAs(
        batch.map(([name, key]) => ({ path: contentPath(name), key })),
        ports,
      ),
    );
    for (const content of batch) {
      const [name, key] = content;
      if (!wrong.has(contentPath(name))) ports.progress({ files: 1, bytes: keySize(key) });
      else {
        gone.push(content);
        await ports.disk.remove(contentPath(name));
      }
    }
  }
  return gone;
}

/** Reads some contents again, and removes those that are not as they should be, so that nobody counts on them. @param names of theirs */
export async function recheckContents(names: readonly string[], ports: ChangePorts): Promise<void> {
  const wanted = new Set(names);
  const { references } = await readReferences(ports);
  const contents = new Map(references.flatMap((one) => one.contents.filter(([name]) => wanted.has(name))));
  await notThere({ contents: [...contents] }, ports);
}

/** Reads every content of a reference again; it then says whether all were found right, or wants to be completed. */
export async function verifyContents(reference: Reference, ports: ChangePorts): Promise<void> {
  const gone = await notThere(reference, ports);
  const { checkedAt: _, ...rest } = reference;
  await putReference(ports, gone.length > 0 ? rest : { ...rest, checkedAt: ports.now() });
}

/** Removes those of some contents that nothing refers to. */
async function sweep(names: ReadonlySet<string>, ports: RemovingPorts): Promise<void> {
  const { references } = await readReferences(ports);
  const wanted = new Set(references.flatMap(({ contents }) => contents.map(([name]) => name)));
  for (const [name, { path, size }] of await contentsThere(ports)) {
    assertGoing(ports);
    if (wanted.has(name) || !names.has(name)) continue;
    await ports.disk.remove(path);
    ports.progress({ files: 1, bytes: size });
  }
}

/**
 * Gives up a reason, and with it the contents that nothing else refers to. One that is not there is given up.
 * @throws Failure `changes/damaged` where a reference cannot be read: then nothing is removed
 */
export const dropReference = (id: string, ports: RemovingPorts): Promise<void> =>
  dropReferences((reference) => reference.id === id, ports);

/**
 * Gives up what is kept for an install alone: fetched, half fetched, or covered by its mods. Builds that are kept are the game's.
 * @param withKeepsakes also what its keepsakes hold
 * @throws Failure as {@link dropReference}
 */
export async function forgetInstall(install: string, withKeepsakes: boolean, ports: RemovingPorts): Promise<void> {
  await ports.disk.remove(PLACES.arriving);
  const isGivenUp = (kind: string): boolean => kind !== 'build' && (kind !== 'keepsake' || withKeepsakes);
  await dropReferences(
    ({ reason }) => isGivenUp(reason.kind) && 'install' in reason && reason.install === install,
    ports,
  );
}

/** Gives up some reasons, as {@link dropReference} does one. @throws Failure as {@link dropReference} */
async function dropReferences(isGivenUp: (reference: Reference) => boolean, ports: RemovingPorts): Promise<void> {
  const { references, unreadable } = await readReferences(ports);
  const given = references.filter(isGivenUp);
  if (given.length === 0) return;
  if (unreadable.length > 0) throw new Failure('changes/damaged', { path: unreadable[0]! });
  for (const { id } of given) await removeReference(ports, id);
  await sweep(new Set(given.flatMap(({ contents }) => contents.map(([name]) => name))), ports);
}
