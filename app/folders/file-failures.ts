import { Failure, isFailure } from '#core/failure';

function failureOf(error: unknown, path: string): unknown {
  if (isFailure(error)) return error;
  switch (error instanceof DOMException ? error.name : '') {
    case 'NotFoundError':
    case 'TypeMismatchError':
      return new Failure('folder/not-found', { path }, { cause: error });
    case 'QuotaExceededError':
      return new Failure('folder/full', { path }, { cause: error });
    case 'NotAllowedError':
    case 'SecurityError':
      return new Failure('folder/no-permission', { path }, { cause: error });
    // What a browser says of a file that is not what it was when it was handed over.
    case 'NotReadableError':
      return new Failure('folder/changed-meanwhile', { path }, { cause: error });
    default:
      return new Failure('folder/failed', { path, message: String(error) }, { cause: error });
  }
}

/** Does something with a file; what the platform throws comes out as a failure that names it. */
export async function naming<T>(path: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    throw failureOf(error, path);
  }
}
