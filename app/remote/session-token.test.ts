import { expect, it } from 'vitest';
import { tokenFor } from './session-token';

it.each([
  ['/stand-ins/depots/files/2.9.4/core/a', 'secret'],
  ['/stand-ins/depots/../catalogue/files/a', undefined],
  ['/stand-ins/depots/%2e%2e/catalogue/files/a', undefined],
  ['/stand-ins/depots', undefined],
  ['/stand-ins/depots-of-others/a', undefined],
  ['/stand-ins/catalogue/files/a', undefined],
  ['//elsewhere.example/stand-ins/depots/a', undefined],
  ['https://elsewhere.example/stand-ins/depots/a', undefined],
  ['\\\\elsewhere.example/stand-ins/depots/a', undefined],
])('the token of a sign-in goes to %j: %s', (href, token) => {
  expect(tokenFor(href, 'secret')).toBe(token);
});
