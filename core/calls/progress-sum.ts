const TELL_MS = 100;

export interface Done {
  readonly files: number;
  readonly bytes: number;
}

/**
 * Adds up what is done and tells it ten times a second: a folder of 100,000 small files would else send the page a
 * message for each.
 */
export class ProgressSum {
  #files = 0;
  #bytes = 0;
  #told: number;

  /** @param now milliseconds of a clock that only goes forward */
  constructor(
    private readonly tell: (done: Done) => void,
    private readonly now: () => number,
  ) {
    this.#told = now();
  }

  add = ({ files, bytes }: Done): void => {
    this.#files += files;
    this.#bytes += bytes;
    if (this.now() - this.#told >= TELL_MS) this.flush();
  };

  /** Tells what has not been told; for the end of the work. */
  flush(): void {
    this.#told = this.now();
    if (this.#files === 0 && this.#bytes === 0) return;
    this.tell({ files: this.#files, bytes: this.#bytes });
    this.#files = 0;
    this.#bytes = 0;
  }
}
