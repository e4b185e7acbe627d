import { expect, it } from 'vitest';
import { Failure, failureFromWire, failureToWire, isFailure } from './index';

it('a failure crosses a thread with code, facts and cause', () => {
  const failure = new Failure('folder/full', { path: 'a' }, { cause: new Failure('service/failed') });
  const back = failureFromWire(structuredClone(failureToWire(failure)));
  expect(back).toMatchObject({ code: 'folder/full', facts: { path: 'a' }, cause: { code: 'service/failed' } });
});

it('what is no failure crosses as unexpected, with its message', () => {
  expect(failureToWire(new TypeError('boom'))).toEqual({ code: 'unexpected', facts: { message: 'boom' } });
  expect(failureToWire('boom')).toEqual({ code: 'unexpected', facts: { message: 'boom' } });
});

it('is told apart by its code', () => {
  const failure = new Failure('folder/full', { path: 'a' });
  expect(isFailure(failure)).toBe(true);
  expect(isFailure(failure, 'folder/full')).toBe(true);
  expect(isFailure(failure, 'folder/read-only')).toBe(false);
  expect(isFailure(new Error('folder/full'))).toBe(false);
});
