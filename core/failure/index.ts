export { Failure, FAILURE_CODES, failureFromWire, failureToWire, isFailure } from './failure';
export type { Facts, FailureCode, WireFailure } from './failure';
