/** Samples that a course of any length is told by. */
const MOST = 120;
const FIRST_STEP_MS = 500;

/** Bytes that came over time, each sample those of one step. */
export interface RateCourse {
  /** Of a step, in milliseconds. */
  readonly step: number;
  readonly bytes: readonly number[];
}

/** Puts down how many bytes come when. The longer it takes, the longer a step is: there are never more than 120 samples. */
export class RateSamples {
  #step = FIRST_STEP_MS;
  #bytes: number[] = [];

  /** @param before a course that goes on, which began at `start` */
  constructor(
    private readonly start: number,
    before?: RateCourse,
  ) {
    if (!before) return;
    this.#step = before.step;
    this.#bytes = [...before.bytes];
  }

  /** @param now in milliseconds, on the clock of `start` */
  add(bytes: number, now: number): void {
    let place = this.#placeOf(now);
    while (place >= MOST) {
      this.#step *= 2;
      this.#bytes = Array.from(
        { length: Math.ceil(this.#bytes.length / 2) },
        (_, i) => this.#bytes[2 * i]! + (this.#bytes[2 * i + 1] ?? 0),
      );
      place = this.#placeOf(now);
    }
    while (this.#bytes.length <= place) this.#bytes.push(0);
    this.#bytes[place]! += bytes;
  }

  get course(): RateCourse {
    return { step: this.#step, bytes: [...this.#bytes] };
  }

  #placeOf(now: number): number {
    return Math.max(0, Math.floor((now - this.start) / this.#step));
  }
}
