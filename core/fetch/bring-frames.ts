import { BEFORE_PREFIX, unpackedSize } from '#core/bundles';
import { assertGoing, inLanes } from '#core/calls';
import { keyPieces, keyPieceSize, pieceCount, pieceRange } from '#core/digest';
import { isFailure } from '#core/failure';
import { type Coming, MAX_TRIES, putAnew, wasTakenIn } from './bring-ports';
import { type FrameRun, frameRuns, type HaulFrame } from './hauls';
import { isOfOneFile, isPassing, isPutOff } from './passing';
import type { FilePart, SourcePart } from './what-to-fetch';

/** Requests for frames at once: each of them is held whole, with its prefix and with what it unpacks to. */
const RUNS_AT_ONCE = 2;
/** How often a frame is asked for that came wrong: what it begins with may be another by now, and then it never comes right. */
const WRONG_TRIES = 2;

/** Whether files by themselves may still come: a source may refuse what a frame builds on, such as a build behind a code, and have the files. */
const isOfFrames = (error: unknown): boolean =>
  isOfOneFile(error) ||
  (isFailure(error) && error.code.startsWith('service/') && error.code !== 'service/sign-in-needed');

type Part = HaulFrame['parts'][number];

/** The pieces of a file that a part of a frame has, with where they begin in the frame. */
function piecesIn(
  { at, start, end }: Part,
  { file: { size, key } }: Coming,
): { index: number; at: number; bytes: number }[] {
  const pieceSize = keyPieceSize(key);
  const first = Math.floor(start / pieceSize);
  const last = end >= size ? pieceCount(size, pieceSize) : Math.floor(end / pieceSize);
  return Array.from({ length: Math.max(0, last - first) }, (_, i) => {
    const range = pieceRange(size, first + i, pieceSize);
    return { index: first + i, at: at + range.start - start, bytes: range.end - range.start };
  });
}

/**
 * Brings pieces of files by frames of bundles. Nothing that goes wrong with a frame is the end of it: what it does not bring is asked for by
 * itself.
 */
export class ByFrames {
  /** Pieces that are there and right, of the files of several pieces. */
  readonly #there = new Map<Coming, boolean[]>();
  readonly #done = new Set<Coming>();
  /** How often a frame has come, and was not right. */
  readonly #wrong = new Map<HaulFrame, number>();

  constructor(private readonly coming: readonly Coming[]) {}

  /** Names a file of several pieces, and those that are there. */
  begin(file: Coming, there: boolean[]): void {
    this.#there.set(file, there);
  }

  isDone(file: Coming): boolean {
    return this.#done.has(file);
  }

  /** The pieces of a file that are there and right by now; undefined for a file of one piece. */
  piecesOf(file: Coming): readonly boolean[] | undefined {
    return this.#there.get(file);
  }

  /** @throws Failure `job/cancelled`, `folder/*` where nothing can be put down, and what concerns more than these frames */
  async bring(frames: readonly HaulFrame[]): Promise<void> {
    const [one] = this.coming;
    if (!one) return;
    const { ports, counts } = one;
    let left = frames.filter((frame) => this.#isWanted(frame));
    for (let tries = 1; left.length > 0; tries++) {
      let refused = false;
      await inLanes(frameRuns(left), RUNS_AT_ONCE, { gate: () => assertGoing(ports.signal) }, async (run) => {
        try {
          await this.#bringRun(run, one);
        } catch (error) {
          if (!isOfFrames(error)) throw error;
          if (isPutOff(error)) counts.wasBusy = true;
          if (!isPassing(error)) refused = true;
        }
      });
      left = left.filter((frame) => this.#isWanted(frame) && (this.#wrong.get(frame) ?? 0) < WRONG_TRIES);
      if (refused || tries >= MAX_TRIES) return;
      if (left.length > 0) await ports.wait(100 * 2 ** tries);
    }
  }

  #isWanted({ parts }: HaulFrame): boolean {
    return parts.some((part) => {
      const file = this.coming[part.file]!;
      const there = this.#there.get(file);
      return there ? piecesIn(part, file).some(({ index }) => !there[index]) : !this.#done.has(file);
    });
  }

  async #bringRun(
    { href, start, end, isAll, frames }: FrameRun<HaulFrame>,
    { ports, counts, throttle }: Coming,
  ): Promise<void> {
    counts.requests += 1;
    let at = start;
    let next = 0;
    let packed = new Uint8Array(frames[0]!.end - frames[0]!.start);
    this.#tell(frames[0]!, 'arriving');
    for await (const chunk of await ports.open(href, isAll ? undefined : { start, end }, ports.signal)) {
      assertGoing(ports.signal);
      counts.wireBytes += chunk.length;
      await throttle?.take(chunk.length);
      for (let from = 0; from < chunk.length && next < frames.length;) {
        const frame = frames[next]!;
        const skipped = Math.min(chunk.length - from, Math.max(0, frame.start - at));
        const some = chunk.subarray(from + skipped, from + skipped + frame.end - Math.max(at, frame.start));
        packed.set(some, Math.max(at, frame.start) - frame.start);
        from += skipped + some.length;
        at += skipped + some.length;
        if (at < frame.end) continue;
        await this.#take(frame, packed);
        const following = frames[++next];
        packed = new Uint8Array(following ? following.end - following.start : 0);
        if (following) this.#tell(following, 'arriving');
      }
      if (next >= frames.length) break;
    }
  }

  #tell({ parts }: HaulFrame, state: 'arriving' | 'failing'): void {
    for (const part of parts) {
      const file = this.coming[part.file]!;
      const there = this.#there.get(file);
      for (const { index } of piecesIn(part, file))
        if (!there?.[index] && !this.#done.has(file)) file.tell(index, state, 0);
    }
  }

  /** Takes what is wanted out of a frame that has come. */
  async #take(frame: HaulFrame, packed: Uint8Array<ArrayBuffer>): Promise<void> {
    const plain = await this.#unpack(frame, packed);
    let isRight = plain !== undefined;
    for (const part of plain ? frame.parts : []) isRight = (await this.#takePart(part, plain!)) && isRight;
    if (isRight) return;
    this.#wrong.set(frame, (this.#wrong.get(frame) ?? 0) + 1);
    this.#tell(frame, 'failing');
  }

  async #unpack(frame: HaulFrame, packed: Uint8Array<ArrayBuffer>): Promise<Uint8Array<ArrayBuffer> | undefined> {
    const { ports } = this.coming[0]!;
    // Before any memory is taken for it.
    if (unpackedSize(packed) !== frame.size) return undefined;
    const prefix = await this.#prefixOf(frame);
    return prefix && ports.unpack(packed, prefix, frame.size);
  }

  /** What a frame begins with; undefined where that is not to be had as it was. */
  async #prefixOf({ prefix }: HaulFrame): Promise<Uint8Array<ArrayBuffer> | undefined> {
    if (prefix.length === 0) return new Uint8Array(0);
    const bytes = new Uint8Array(prefix.reduce((sum, { start, end }) => sum + end - start, BEFORE_PREFIX));
    let at = BEFORE_PREFIX;
    for (const part of prefix) {
      try {
        const into = bytes.subarray(at, at + part.end - part.start);
        const filled = 'href' in part ? await this.#partOfSource(part, into) : await this.#partOfDisk(part, into);
        if (filled < into.length) return undefined;
        at += filled;
      } catch (error) {
        if (!isOfFrames(error) && !(isFailure(error) && error.code.startsWith('folder/'))) throw error;
        return undefined;
      }
    }
    return bytes;
  }

  /** @returns bytes that were read */
  async #partOfDisk({ path, start, end }: FilePart, into: Uint8Array<ArrayBuffer>): Promise<number> {
    const file = await this.coming[0]!.ports.from.open(path);
    try {
      const bytes = await file.read(start, end, into);
      if (bytes.buffer !== into.buffer) into.set(bytes);
      return bytes.length;
    } finally {
      file.close();
    }
  }

  /** Bytes that frames build on and that the disk has not, or not as they were. @returns how many came */
  async #partOfSource({ href, start, end }: SourcePart, into: Uint8Array): Promise<number> {
    const { ports, counts, throttle } = this.coming[0]!;
    let at = 0;
    counts.requests += 1;
    for await (const chunk of await ports.open(href, { start, end }, ports.signal)) {
      assertGoing(ports.signal);
      counts.wireBytes += chunk.length;
      await throttle?.take(chunk.length);
      into.set(chunk.subarray(0, into.length - at), at);
      at += chunk.length;
      if (at >= into.length) break;
    }
    return Math.min(at, into.length);
  }

  /** Puts down the pieces of a file that are in a frame. @returns whether they are right */
  async #takePart(part: Part, plain: Uint8Array<ArrayBuffer>): Promise<boolean> {
    const coming = this.coming[part.file]!;
    const { file, ports, counts, tell } = coming;
    if (this.#done.has(coming)) return true;
    const there = this.#there.get(coming);
    const digests = keyPieces(file.key);
    let isRight = true;
    for (const { index, at, bytes } of piecesIn(part, coming)) {
      if (there?.[index]) continue;
      const piece = plain.subarray(at, at + bytes);
      if ((await ports.sha256(piece)) !== digests[index]) {
        isRight = false;
        continue;
      }
      if (there) {
        await ports.folder.writeAt(coming.part, index * keyPieceSize(file.key), piece);
        there[index] = true;
      } else {
        await this.#takeIn(coming, piece);
      }
      counts.fetchedBytes += bytes;
      tell(index, 'checked', bytes);
    }
    return isRight;
  }

  /** Puts a file of one piece in place. */
  async #takeIn(coming: Coming, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    const { file, part, ports } = coming;
    try {
      await putAnew(ports.folder, part, bytes);
      await ports.folder.takeIn(file.name, file.key);
    } catch (error) {
      if (!(await wasTakenIn(coming, error))) throw error;
    }
    this.#done.add(coming);
  }
}
