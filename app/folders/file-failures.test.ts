import { expect, it } from 'vitest';
import { Failure } from '#core/failure';
import { naming } from './file-failures';

it.each([
  ['NotFoundError', 'folder/not-found'],
  ['TypeMismatchError', 'folder/not-found'],
  ['QuotaExceededError', 'folder/full'],
  ['NotAllowedError', 'folder/no-permission'],
  ['SecurityError', 'folder/no-permission'],
  ['NotReadableError', 'folder/changed-meanwhile'],
  ['InvalidStateError', 'folder/failed'],
])('what a browser calls %s is %s, with the file named', async (name, code) => {
  const thrown = new DOMException('no', name);
  const failed = naming('a/b', () => Promise.reject(thrown));
  await expect(failed).rejects.toMatchObject({ code, facts: { path: 'a/b' }, cause: thrown });
});

it('a failure that names its file already comes out as it is', async () => {
  const own = new Failure('folder/read-only', { path: 'other' });
  await expect(naming('a', () => Promise.reject(own))).rejects.toBe(own);
});
