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

it('is asked of any number of values, none included', () => {
  const all = keepLast((...some: readonly number[]) => some.length);
  expect([all(), all(1), all(1, 2), all(1)]).toEqual([0, 1, 2, 1]);
});

it('keeps as many as it may, those asked for last', () => {
  let times = 0;
  const counted = keepLast((_text: string) => ++times, 2);
  expect(['a', 'b', 'a', 'c', 'a', 'b'].map((text) => counted(text))).toEqual([1, 2, 1, 3, 1, 4]);
});

it('does not keep a failure that was promised', async () => {
  const outcomes = [Promise.reject(new Error('not now')), Promise.resolve('there')];
  const asked = keepLast((_text: string) => outcomes.shift()!);
  await expect(asked('a')).rejects.toThrow('not now');
  await expect(asked('a')).resolves.toBe('there');
  await expect(asked('a')).resolves.toBe('there');
});
