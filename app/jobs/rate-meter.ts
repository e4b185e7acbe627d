const WINDOW_MS = 4000;

/** Bytes a second over the last four seconds; a longer memory would hide that a service has become slow. */
export class RateMeter {
  #samples: { at: number; bytes: number }[] = [];
  #since: number;

  constructor(private readonly now: () => number) {
    this.#since = now();
  }

  add(bytes: number): void {
    const at = this.now();
    this.#samples.push({ at, bytes });
    while (this.#samples[0] && this.#samples[0].at < at - WINDOW_MS) this.#samples.shift();
  }

  reset(): void {
    this.#samples = [];
    this.#since = this.now();
  }

  /** 0 until there is something to tell. */
  rate(): number {
    const now = this.now();
    const from = Math.max(this.#since, now - WINDOW_MS);
    const bytes = this.#samples.reduce((sum, sample) => (sample.at >= from ? sum + sample.bytes : sum), 0);
    return now > from ? (1000 * bytes) / (now - from) : 0;
  }
}
