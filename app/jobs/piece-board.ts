import type { PieceState } from '#core/fetch';

const TELL_MS = 250;

/** What happens to each piece of the running fetch, by the SHA-256 of its file; for the picture, not for the record. */
class PieceBoard {
  readonly #pieces = new Map<string, Map<number, PieceState>>();
  readonly #listeners = new Set<() => void>();
  #version = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;

  set(sha256: string, index: number, state: PieceState): void {
    const pieces = this.#pieces.get(sha256) ?? new Map<number, PieceState>();
    pieces.set(index, state);
    this.#pieces.set(sha256, pieces);
    this.#timer ??= setTimeout(() => {
      this.#timer = undefined;
      this.#version++;
      this.#listeners.forEach((listener) => listener());
    }, TELL_MS);
  }

  get(sha256: string, index: number): PieceState | undefined {
    return this.#pieces.get(sha256)?.get(index);
  }

  clear(): void {
    this.#pieces.clear();
  }

  /** Changes whenever there is something new to draw. */
  version = (): number => this.#version;

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
}

export const pieceBoard = new PieceBoard();
