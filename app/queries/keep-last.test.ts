import { expect, it } from 'vitest';
import { keepLast } from './keep-last';

it('works again only when it is asked of other values', () => {
  let times = 0;
  const counted = keepLast((one: object | undefined, text: string) => ({ one, text, times: ++times }));
  const one = {};
  const first = counted(one, 'a');
  expect(counted(one, 'a')).toBe(first);
  expect(counted({}, 'a')).toMatchObject({ times: 2 });
  expect(counted(undefined, 'a')).toMatchObject({ times: 3 });
  expect(counted(undefined, 'b')).toMatchObject({ text: 'b', times: 4 });
  expect(counted(one, 'a')).toMatchObject({ times: 5 });
});
