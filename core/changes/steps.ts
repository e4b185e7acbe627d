import { contentKey, type ContentKey, keyPieceSize, keySize } from '#core/digest';
import { Failure } from '#core/failure';
import type { HashWish } from '#core/folders';
import type { ChangePorts } from './disk';
import { keptPath, type Step } from './schema';

/*
 * Each step and its inverse. Whether a step has been made is told by what lies in the set's own folders, where nobody else
 * writes: so each can be made again after it was cut off anywhere, and taken back from anywhere.
 */

/** A step that gets a file ready where nobody looks; many are made at once. */
export type Ready = Extract<Step, { do: 'copy' | 'write' }>;
/** A step that is made by itself, one after the other. */
export type Single = Exclude<Step, Ready>;

export const isReady = (step: Step): step is Ready => step.do === 'copy' || step.do === 'write';

/** Files that a step moves, sets or clears. */
export function changedPaths(step: Single): string[] {
  switch (step.do) {
    case 'place':
      return [step.to];
    case 'move':
      return [step.from, step.to];
    case 'take':
    case 'flag':
      return [step.path];
    case 'exchange':
    case 'leave':
      return [];
  }
}

/** Bytes of a file that are hashed at once. */
const SPAN_BYTES = 64 << 20;

/** The file whole, or where it is large as spans, so that no answer waits long. */
function wishesOf(path: string, key: ContentKey): HashWish[] {
  const [size, pieceSize] = [keySize(key), keyPieceSize(key)];
  const pieces = Math.max(1, Math.ceil(size / pieceSize));
  const inSpan = Math.max(1, Math.floor(SPAN_BYTES / pieceSize));
  if (pieces <= inSpan) return [{ path, size, pieceSize }];
  return Array.from({ length: Math.ceil(pieces / inSpan) }, (_, i) => {
    const span = { first: i * inSpan, end: Math.min(pieces, (i + 1) * inSpan) };
    return { path, size, pieceSize, span };
  });
}

/** Which of these files have other bytes than these. A file that cannot be read is refused by its reason. */
export async function notAs(
  files: readonly { readonly path: string; readonly key: ContentKey }[],
  { hash }: Pick<ChangePorts, 'hash'>,
): Promise<string[]> {
  const wishes = files.flatMap(({ path, key }, file) => wishesOf(path, key).map((wish) => ({ file, wish })));
  const outcomes = await hash(wishes.map(({ wish }) => wish));
  const pieces = files.map((): string[] => []);
  const wrong = new Set<number>();
  for (const [i, { file, wish }] of wishes.entries()) {
    const outcome = outcomes[i]!;
    if ('code' in outcome) {
      if (outcome.code !== 'folder/changed-meanwhile' && outcome.code !== 'folder/not-found')
        throw new Failure(outcome.code, { path: wish.path });
      wrong.add(file);
    } else if (outcome.size !== wish.size) wrong.add(file);
    else pieces[file]!.push(...outcome.pieces);
  }
  return files.flatMap(({ path, key }, file) => {
    const isWrong = wrong.has(file) || contentKey(keySize(key), pieces[file]!, keyPieceSize(key)) !== key;
    return isWrong ? [path] : [];
  });
}

/** @throws Failure `folder/changed-meanwhile` where the file has other bytes, or is not there */
async function assertHas(path: string, key: ContentKey, ports: ChangePorts): Promise<void> {
  if ((await notAs([{ path, key }], ports)).length > 0) throw new Failure('folder/changed-meanwhile', { path });
}

/** Gets one file ready, over what an earlier try has left there. */
export async function makeReady(step: Ready, { disk, encode }: ChangePorts): Promise<void> {
  if (step.do === 'write') return disk.writeWhole(step.to, encode(step.text));
  await disk.copy(step.from, step.to);
  if (step.modified !== undefined && disk.can.times) await disk.setModified(step.to, step.modified);
}

/**
 * Moves a file to where nothing lies. Between two volumes that is a copy, and then a removal: cut off in between, the bytes
 * lie at both places, and what is left to do is the removal.
 * @param isProven whether its bytes have been read already, since they were put where nobody else writes
 */
async function moveChecked(
  from: string,
  to: string,
  key: ContentKey,
  ports: ChangePorts,
  isProven = false,
): Promise<void> {
  if (!isProven) await assertHas(from, key, ports);
  if (!(await ports.disk.stat(to))) return ports.disk.move(from, to);
  if ((await notAs([{ path: to, key }], ports)).length > 0) throw new Failure('folder/changed-meanwhile', { path: to });
  await ports.disk.remove(from);
}

/** Ends a move from a path to where the bytes lie already; whatever else lies at the path stays. */
async function endMove(from: string, key: ContentKey, ports: ChangePorts): Promise<void> {
  if ((await ports.disk.stat(from)) && (await notAs([{ path: from, key }], ports)).length === 0)
    await ports.disk.remove(from);
}

async function exchange(from: string, to: string, { disk }: ChangePorts): Promise<void> {
  const current = await disk.current();
  if (current !== from && current !== to) throw new Failure('changes/superseded', { found: current, expected: from });
  // Also where it is done: of an exchange that was cut off a part may be left to do.
  await disk.exchange(from, to);
}

/**
 * Makes step `number` of a set; made already, it stays as it is.
 * @param proven files that were got ready, and read and found right since
 * @throws Failure `folder/*`, `changes/superseded`
 */
export async function makeStep(
  step: Single,
  set: string,
  number: number,
  ports: ChangePorts,
  proven: ReadonlySet<string> = new Set(),
): Promise<void> {
  const { disk } = ports;
  const kept = keptPath(set, number);
  switch (step.do) {
    case 'place': {
      if (!(await disk.stat(step.from))) return assertHas(step.to, step.key, ports);
      if (step.before !== null) {
        if (await disk.stat(kept)) await endMove(step.to, step.before, ports);
        else await moveChecked(step.to, kept, step.before, ports);
      }
      return moveChecked(step.from, step.to, step.key, ports, proven.has(step.from));
    }
    case 'take':
      if (await disk.stat(kept)) await endMove(step.path, step.key, ports);
      else await moveChecked(step.path, kept, step.key, ports);
      return;
    case 'move':
      if (await disk.stat(step.from)) await moveChecked(step.from, step.to, step.key, ports);
      else await assertHas(step.to, step.key, ports);
      return;
    case 'flag':
      // Made again after a cut, the file may be where a later step has put it.
      if (await disk.stat(step.path)) await disk.setReadOnly(step.path, step.readOnly);
      return;
    case 'exchange':
      return exchange(step.from, step.to, ports);
    case 'leave':
      return;
  }
}

/** Whether a step has been made, to its end; undefined where that cannot be told. */
export async function isMade(
  step: Single,
  set: string,
  number: number,
  { disk }: ChangePorts,
): Promise<boolean | undefined> {
  switch (step.do) {
    case 'place':
    case 'move':
      return !(await disk.stat(step.from));
    case 'take':
      return (await disk.stat(keptPath(set, number))) !== undefined;
    case 'flag':
    case 'leave':
      return undefined;
    case 'exchange':
      return (await disk.current()) !== step.from;
  }
}

/** Takes step `number` of a set back; one that was never made stays so. @throws Failure as {@link makeStep} */
export async function takeBack(step: Single, set: string, number: number, ports: ChangePorts): Promise<void> {
  const { disk } = ports;
  const kept = keptPath(set, number);
  switch (step.do) {
    case 'place':
      if (!(await disk.stat(step.from))) {
        // What it put aside has been removed by somebody: then what it put in place is better than nothing.
        if (step.before !== null && !(await disk.stat(kept))) throw new Failure('folder/not-found', { path: kept });
        await moveChecked(step.to, step.from, step.key, ports);
      }
      // Only where the place was free, or has been made so, can it be the set's own bytes that lie there.
      else if (step.before === null || (await disk.stat(kept))) await endMove(step.to, step.key, ports);
      if (step.before !== null && (await disk.stat(kept))) await moveChecked(kept, step.to, step.before, ports);
      return;
    case 'take':
      if (await disk.stat(kept)) await moveChecked(kept, step.path, step.key, ports);
      else if (!(await disk.stat(step.path))) throw new Failure('folder/not-found', { path: kept });
      return;
    case 'move':
      if (!(await disk.stat(step.from))) return moveChecked(step.to, step.from, step.key, ports);
      if (!(await disk.stat(step.to))) return;
      // Only where the bytes lie at both ends was it cut off in between; else somebody has put others there.
      await assertHas(step.from, step.key, ports);
      return endMove(step.to, step.key, ports);
    case 'flag':
      if (await disk.stat(step.path)) await disk.setReadOnly(step.path, step.before);
      return;
    case 'exchange':
      if ((await disk.current()) !== step.from) await exchange(step.to, step.from, ports);
      return;
    case 'leave':
      return;
  }
}
