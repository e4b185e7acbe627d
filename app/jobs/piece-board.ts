import type { PieceState } from '#core/fetch';

const TELL_MS = 250;

/** What happens to each piece of each install's fetch, by the SHA-256 of its file; for the picture, not for the record. */
class PieceBoard {
  readonly #pieces = new Map<string, Map<string, Map<number, PieceState>>>();
  readonly #listeners = new Set<() => void>();
  #version = 0;
  #timer: ReturnType<typeof setTimeout> | undefined;

  set(install: string, sha256: string, index: number, state: PieceState): void {
    const files = this.#pieces.get(install) ?? new Map<string, Map<number, PieceState>>();
    const pieces = files.get(sha256) ?? new Map<number, PieceState>();
    this.#pieces.set(install, files.set(sha256, pieces.set(index, state)));
    this.#timer ??= setTimeout(() => {
      this.#timer = undefined;
      this.#version++;
      this.#listeners.forEach((listener) => listener());
    }, TELL_MS);
  }

  get(install: string, sha256: string, index: number): PieceState | undefined {
    return this.#pieces.get(install)?.get(sha256)?.get(index);
  }

  clear(install: string): void {
    this.#pieces.delete(install);
  }

  /** Changes whenever there is something new to draw. */
  version = (): number => this.#version;

  subscribe = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };
}

export const pieceBoard = new PieceBoard();
