import { expect, it } from 'vitest';
import { inLanes } from './lanes';

const open = { gate: async () => undefined };

it('lanes do each item once, and no more of them at a time than there are lanes', async () => {
  let now = 0;
  let most = 0;
  const done: number[] = [];
  await inLanes([...Array(20).keys()], 3, open, async (item) => {
    most = Math.max(most, ++now);
    await new Promise((resolve) => setTimeout(resolve, item % 3));
    now--;
    done.push(item);
  });
  expect(most).toBe(3);
  expect(done.toSorted((a, b) => a - b)).toEqual([...Array(20).keys()]);
});

it('there may be more lanes, or fewer, as it goes', async () => {
  let lanes = 1;
  let now = 0;
  const together: number[] = [];
  await inLanes(
    [...Array(12).keys()],
    () => lanes,
    open,
    async (item) => {
      together[item] = ++now;
      await new Promise((resolve) => setTimeout(resolve));
      lanes = item < 6 ? 3 : 1;
      now--;
    },
  );
  expect([Math.max(...together.slice(0, 6)), together.slice(9)]).toEqual([3, [1, 1, 1]]);
});

it('the first failure ends all lanes, but only after what is under way is done', async () => {
  const begun: number[] = [];
  const ended: number[] = [];
  let fail = (): void => undefined;
  const failing = new Promise<void>((resolve) => (fail = resolve));
  const work = async (item: number): Promise<void> => {
    begun.push(item);
    if (item === 1) {
      fail();
      throw new Error('one is bad');
    }
    await failing;
    // Long after the other lane has failed, whatever the machine is busy with.
    await new Promise((resolve) => setTimeout(resolve));
    ended.push(item);
  };
  await expect(inLanes([0, 1, 2, 3, 4, 5, 6, 7], 2, open, work)).rejects.toThrow('one is bad');
  expect(begun).toEqual([0, 1]);
  expect(ended).toEqual([0]);
});

it('a gate that stays closed lets nothing begin', async () => {
  const begun: number[] = [];
  const shut = { gate: () => Promise.reject(new Error('cancelled')) };
  await expect(inLanes([1, 2], 2, shut, async (item) => void begun.push(item))).rejects.toThrow('cancelled');
  expect(begun).toEqual([]);
});
