import type { DiskProgress } from './protocol';

const TELL_MS = 100;

/**
 * Adds up what is done and tells it ten times a second: a folder of 100,000 small files would else send the page a
 * message for each. What becomes of a piece is told at once, after what was done before it.
 */
export class ProgressSum {
  #files = 0;
  #bytes = 0;
  #told: number;

  constructor(
    private readonly tell: (progress: DiskProgress) => void,
    private readonly now: () => number = () => performance.now(),
  ) {
    this.#told = now();
  }

  add = (progress: DiskProgress): void => {
    if (progress.kind === 'piece') {
      this.flush();
      this.tell(progress);
      return;
    }
    this.#files += progress.files;
    this.#bytes += progress.bytes;
    if (this.now() - this.#told >= TELL_MS) this.flush();
  };

  /** Tells what has not been told; for the end of the work. */
  flush(): void {
    this.#told = this.now();
    if (this.#files === 0 && this.#bytes === 0) return;
    this.tell({ kind: 'bytes', files: this.#files, bytes: this.#bytes });
    this.#files = 0;
    this.#bytes = 0;
  }
}
