/** How many are asked for at once in the beginning, and at most. */
const FIRST = 4;
const MOST = 8;

/**
 * How many hauls are under way at once: one more after each round of as many that went well, half as many when the source is
 * too busy, so that it settles near what the source can give (additive increase, multiplicative decrease: Chiu and Jain,
 * "Analysis of the increase and decrease algorithms for congestion avoidance", 1989).
 */
export class Width {
  #width = FIRST;
  #sinceChange = 0;

  get now(): number {
    return Math.floor(this.#width);
  }

  /** @param wasBusy whether the source has put off some of a haul that has ended */
  ended(wasBusy: boolean): void {
    this.#sinceChange += 1;
    // Those that were under way when it became less tell of the same time.
    const isOver = this.#sinceChange >= this.now;
    if (wasBusy && isOver) [this.#width, this.#sinceChange] = [Math.max(1, this.#width / 2), 0];
    else if (!wasBusy) this.#width = Math.min(MOST, this.#width + 1 / this.now);
  }
}
