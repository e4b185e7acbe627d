import { type ContentKey, keyPieces } from '#core/digest';
import { type BroughtSoFar, NOTHING_BROUGHT, type PieceNews, RateSamples } from '#core/fetch';
import { type FetchReport, FetchReportSchema } from '~/store';

const SUMMED = ['fetchedBytes', 'reusedBytes', 'wireBytes', 'requests'] as const;

/** Counts how a fetch goes, for its report. A fetch that was cut off goes on counting where it was. */
export class FetchTally {
  readonly #startedAt: number;
  readonly #before: FetchReport | undefined;
  readonly #sums = { ...NOTHING_BROUGHT };
  readonly #samples: RateSamples;
  /** Pieces of each content that are right, since what is asked for again tells of all that is there. */
  readonly #right = new Map<ContentKey, Set<number>>();

  /**
   * @param wanted what has to come now
   * @param left what the job left when it was cut off
   */
  constructor(
    private readonly wanted: { readonly build: string; readonly files: number; readonly bytes: number },
    left: unknown,
    private readonly now: () => number = Date.now,
  ) {
    this.#before = FetchReportSchema.safeParse(left).data;
    this.#startedAt = now();
    this.#samples = new RateSamples(this.#startedAt - (this.#before?.milliseconds ?? 0), this.#before?.course);
    for (const what of SUMMED) this.#sums[what] = this.#before?.[what] ?? 0;
  }

  /** @returns what is right now and was not before: bytes without those from elsewhere on the disk, and whole files */
  piece(content: ContentKey, { index, state, bytes }: PieceNews): { files: number; bytes: number } {
    const right = this.#right.get(content) ?? new Set();
    this.#right.set(content, right);
    const isRight = state === 'checked' || state === 'on-hand' || state === 'reused';
    if (!isRight || right.has(index)) return { files: 0, bytes: 0 };
    right.add(index);
    if (state === 'checked') this.#samples.add(bytes, this.now());
    return {
      files: right.size === keyPieces(content).length ? 1 : 0,
      bytes: state === 'reused' ? 0 : bytes,
    };
  }

  /** Counts what more has come of a haul. */
  came(before: BroughtSoFar, now: BroughtSoFar): void {
    for (const what of SUMMED) this.#sums[what] += now[what] - before[what];
  }

  report(missing: FetchReport['missing'] = []): FetchReport {
    const { build, files, bytes } = this.wanted;
    return {
      ...{ build, ...this.#sums, missing, course: this.#samples.course },
      files: this.#before?.files ?? files,
      wholeBytes: this.#before?.wholeBytes ?? bytes,
      milliseconds: (this.#before?.milliseconds ?? 0) + this.now() - this.#startedAt,
    };
  }
}
