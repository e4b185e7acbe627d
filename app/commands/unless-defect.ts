import { isFailure } from '#core/failure';

/** Passes over a failure of what is only done besides; what is none is a defect of the program. */
export function unlessDefect(error: unknown): void {
  if (!isFailure(error)) throw error;
}
