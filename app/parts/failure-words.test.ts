import { expect, it } from 'vitest';
import { Failure } from '#core/failure';
import { errorWords } from './failure-words';

it('a failure is told with its file and line, and with what can be done', () => {
  const { what, next } = errorWords(new Failure('path/climbs', { path: '../a', file: 'list.sums', line: 3 }));
  expect(what).toBe('The path "../a" leads out of its folder (list.sums, line 3).');
  expect(next).toMatch(/^Nothing was written/);
});

it.each([
  'Failed to fetch dynamically imported module: http://127.0.0.1/assets/a.js',
  'error loading dynamically imported module: http://127.0.0.1/assets/a.js',
  'Importing a module script failed.',
])('a part that did not come is told for that: %s', (message) => {
  expect(errorWords(new TypeError(message)).what).toMatch(/^A part of Regressum could not be loaded/);
});

it('whatever else was thrown is told as it is', () => {
  expect(errorWords(new Error('odd')).what).toBe('An unexpected error occurred: odd');
  expect(errorWords('odd').what).toBe('An unexpected error occurred: odd');
});
