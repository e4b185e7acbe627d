import type { Speed } from '~/store';

const WINDOW_MS = 4000;
/**
 * Opening a file and telling of it takes as long as reading and hashing this many bytes: 100,000 tiny files of a served
 * folder took 0.4 ms each where large ones went at 330 MB/s. Without it a folder that begins with tiny files would seem
 * to take for ever.
 */
const BYTES_A_FILE = 128 << 10;

/** What is done, and what is to do. */
export interface Amount {
  readonly files: number;
  readonly bytes: number;
  /** Bytes that came over the wire for it: of what is fetched these are its rate. */
  readonly wire?: number | undefined;
}

export const AT_REST: Speed = { rate: 0, secondsLeft: undefined };

const workOf = ({ files, bytes }: Amount): number => bytes + files * BYTES_A_FILE;

/** Speed over the last four seconds; a longer memory would hide that a service has become slow. */
export class RateMeter {
  #samples: { at: number; done: Amount }[] = [];
  #since: number;

  constructor(private readonly now: () => number) {
    this.#since = now();
  }

  add(done: Amount): void {
    const at = this.now();
    this.#samples.push({ at, done });
    while (this.#samples[0] && this.#samples[0].at < at - WINDOW_MS) this.#samples.shift();
  }

  reset(): void {
    this.#samples = [];
    this.#since = this.now();
  }

  #perSecond(amountOf: (done: Amount) => number): number {
    const now = this.now();
    const from = Math.max(this.#since, now - WINDOW_MS);
    const amount = this.#samples.reduce((sum, { at, done }) => (at >= from ? sum + amountOf(done) : sum), 0);
    return now > from ? (1000 * amount) / (now - from) : 0;
  }

  /** @param left what is to do, for the time it takes */
  speed(left: Amount): Speed {
    const work = this.#perSecond(workOf);
    return {
      rate: this.#perSecond(({ bytes, wire = bytes }) => wire),
      secondsLeft: work > 0 ? workOf(left) / work : undefined,
    };
  }
}
