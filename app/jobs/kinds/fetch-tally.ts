import { type Brought, type PieceNews, RateSamples } from '#core/fetch';
import { type FetchReport, FetchReportSchema } from '~/store';

const SUMMED = ['fetchedBytes', 'reusedBytes', 'wireBytes', 'requests'] as const;

/** Counts how a fetch goes, for its report. A fetch that was cut off goes on counting where it was. */
export class FetchTally {
  readonly #startedAt: number;
  readonly #before: FetchReport | undefined;
  readonly #sums = { fetchedBytes: 0, reusedBytes: 0, wireBytes: 0, requests: 0 };
  readonly #samples: RateSamples;
  /** Pieces that were counted, since what is asked for again tells of all that is there. */
  readonly #counted = new Set<string>();

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
    this.#samples = new RateSamples(this.#startedAt);
    for (const what of SUMMED) this.#sums[what] = this.#before?.[what] ?? 0;
  }

  /** @returns bytes that are right now and were not before */
  piece(content: string, { index, state, bytes }: PieceNews): number {
    const piece = `${content} ${index}`;
    if ((state !== 'checked' && state !== 'on-hand') || this.#counted.has(piece)) return 0;
    this.#counted.add(piece);
    if (state === 'checked') this.#samples.add(bytes, this.now());
    return bytes;
  }

  haul(came: Pick<Brought, (typeof SUMMED)[number]>): void {
    for (const what of SUMMED) this.#sums[what] += came[what];
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
