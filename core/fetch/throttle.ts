/** Holds bytes back, so that no more come in than so many a second. */
export class Throttle {
  /** When all that was let in so far may have come, in milliseconds. */
  #due = 0;

  constructor(
    private readonly bytesPerSecond: number,
    private readonly ports: {
      /** Milliseconds since any moment. */
      readonly now: () => number;
      readonly wait: (milliseconds: number) => Promise<void>;
    },
  ) {}

  async take(bytes: number): Promise<void> {
    const now = this.ports.now();
    this.#due = Math.max(this.#due, now) + (1000 * bytes) / this.bytesPerSecond;
    if (this.#due > now) await this.ports.wait(this.#due - now);
  }
}
