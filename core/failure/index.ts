export { Failure, FAILURE_CODES, failureFromWire, failureToWire, isFailure } from './failure';
export type { Facts, FailureCode, FailureFacts, WireFailure } from './failure';
export { WireFailureSchema } from './wire';
