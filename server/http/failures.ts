import { Failure, type FailureCode, failureToWire, isFailure, type WireFailure } from '#core/failure';

const STATUS: Partial<Record<FailureCode, number>> = {
  'service/sign-in-needed': 401,
  'service/refused': 403,
  'service/not-owned': 403,
  'service/too-many-tries': 429,
  'service/failed': 503,
  'service/unreachable': 502,
  'source/private': 403,
  'source/redirected': 502,
  'served/off': 404,
  'served/refused': 403,
  'served/outside': 403,
  'served/root-replaced': 409,
  'served/no-write': 403,
  'changes/locked': 409,
  'changes/unknown': 404,
  'folder/full': 507,
  'folder/not-found': 404,
  'folder/no-permission': 403,
  'demo/unknown-file': 404,
  'request/method': 405,
  'request/too-long': 413,
  'request/foreign': 403,
};

/** A failure as a response: its wire form as JSON, with the status that fits its code. */
export function failureResponse(error: unknown): Response {
  if (isFailure(error)) {
    // The cause tells of the inside, such as where on the disk something lies.
    const wire: WireFailure = { code: error.code, facts: failureToWire(error).facts };
    const response = Response.json(wire, { status: STATUS[error.code] ?? 400 });
    if (isFailure(error, 'request/method')) response.headers.set('Allow', String(error.facts.expected));
    return response;
  }
  // What went wrong inside is for the terminal, not for whoever asks.
  console.error(error);
  return Response.json(failureToWire(new Failure('unexpected', { message: 'The server failed.' })), { status: 500 });
}
