import { keyPieceSize, keySize, pieceCount } from '#core/digest';
import { type BroughtSoFar, type FetchItem, NOTHING_BROUGHT, type PieceNews, RateSamples } from '#core/fetch';
import { type FetchReport, FetchReportSchema } from '~/store';

const SUMMED = ['fetchedBytes', 'reusedBytes', 'wireBytes', 'requests'] as const;

/** Numbers as stretches `[from, to)`. */
function stretches(numbers: Iterable<number>): [from: number, to: number][] {
  const all: [number, number][] = [];
  for (const number of [...numbers].sort((a, b) => a - b)) {
    const last = all.at(-1);
    if (last?.[1] === number) last[1] += 1;
    else all.push([number, number + 1]);
  }
  return all;
}

/** Counts how a fetch goes, for its report. A fetch that was cut off goes on counting where it was. */
export class FetchTally {
  readonly #startedAt: number;
  readonly #before: FetchReport | undefined;
  readonly #sums = { ...NOTHING_BROUGHT };
  readonly #samples: RateSamples;
  /** Pieces that are right of each file that is not whole yet, since what is asked for again tells of all that is there. */
  readonly #partly = new Map<string, Set<number>>();
  readonly #whole = new Set<string>();

  /**
   * @param wanted what has to come now, with the pieces that came earlier
   * @param left what the job left when it was cut off
   */
  constructor(
    private readonly wanted: { readonly build: string; readonly items: readonly FetchItem[] },
    left: unknown,
    private readonly now: () => number = Date.now,
  ) {
    this.#before = FetchReportSchema.safeParse(left).data;
    this.#startedAt = now();
    this.#samples = new RateSamples(this.#startedAt - (this.#before?.milliseconds ?? 0), this.#before?.course);
    for (const { sha256, source } of wanted.items) {
      const arrived = source.how === 'fetch' ? source.pieces.flatMap((one, i) => (one === 'arrived' ? [i] : [])) : [];
      if (arrived.length > 0) this.#partly.set(sha256, new Set(arrived));
    }
    for (const what of SUMMED) this.#sums[what] = this.#before?.[what] ?? 0;
  }

  /** @returns what is right now and was not before: bytes without those from elsewhere on the disk, and whole files */
  piece(
    { sha256, key }: Pick<FetchItem, 'sha256' | 'key'>,
    { index, state, bytes }: PieceNews,
  ): { files: number; bytes: number } {
    const isRight = state === 'checked' || state === 'on-hand' || state === 'reused';
    if (!isRight || this.#whole.has(sha256)) return { files: 0, bytes: 0 };
    const right = this.#partly.get(sha256) ?? new Set();
    const isNew = !right.has(index);
    this.#partly.set(sha256, right.add(index));
    const isWhole = right.size === pieceCount(keySize(key), keyPieceSize(key));
    if (isWhole) {
      this.#partly.delete(sha256);
      this.#whole.add(sha256);
    }
    return { files: isWhole ? 1 : 0, bytes: isNew && state !== 'reused' ? bytes : 0 };
  }

  /** Counts what more has come of a haul. */
  came(before: BroughtSoFar, now: BroughtSoFar): void {
    for (const what of SUMMED) this.#sums[what] += now[what] - before[what];
    this.#samples.add(now.wireBytes - before.wireBytes, this.now());
  }

  report(missing: FetchReport['missing'] = []): FetchReport {
    const { build, items } = this.wanted;
    return {
      ...{ build, ...this.#sums, missing, course: this.#samples.course },
      partly: [...this.#partly].map(([sha256, pieces]) => [sha256, stretches(pieces)]),
      files: this.#before?.files ?? items.length,
      wholeBytes: this.#before?.wholeBytes ?? items.reduce((sum, { size }) => sum + size, 0),
      milliseconds: (this.#before?.milliseconds ?? 0) + this.now() - this.#startedAt,
    };
  }
}
