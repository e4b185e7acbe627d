import { expect, it } from 'vitest';
import { Failure } from '#core/failure';
import { inRounds } from './in-rounds';

const context = { gate: async () => undefined };
const busy = (): Failure => new Failure('service/failed', { status: 503, url: 'x' });

/** Lets items fail so many times before they do well. @returns what was done, and what was set aside */
async function failing(times: Readonly<Record<string, number>>, items = Object.keys(times), failure = busy) {
  const left = new Map(Object.entries(times));
  const asked: string[] = [];
  const one = {
    ...{ lanes: () => 2, goneAfter: 4 },
    groupsOf: (some: readonly string[]) => some.map((item) => ({ files: [item] })),
    pause: async () => undefined,
  };
  const aside = await inRounds(items, one, context, async ({ files: [item] }) => {
    asked.push(item!);
    const fails = left.get(item!) ?? 0;
    left.set(item!, fails - 1);
    if (fails <= 0) return [];
    const why = failure();
    if (why.code === 'folder/full') throw why;
    return [{ item: item!, failure: why }];
  });
  return { asked, aside: aside.map(({ item }) => item) };
}

it('what fails in passing comes after everything else, and is asked for again', async () => {
  expect(await failing({ a: 2, b: 0, c: 1, d: 0 })).toEqual({
    asked: ['a', 'b', 'c', 'd', 'a', 'c', 'a'],
    aside: [],
  });
});

it('what fails again and again is named, and everything else is done', async () => {
  const { asked, aside } = await failing({ a: 99, b: 0, c: 0 });
  expect(aside).toEqual(['a']);
  expect(asked.filter((item) => item === 'a')).toHaveLength(5);
  expect(asked).toContain('c');
});

it('what is not there is asked for once', async () => {
  const gone = (): Failure => new Failure('service/failed', { status: 404, url: 'x' });
  expect(await failing({ a: 99, b: 0 }, undefined, gone)).toEqual({ asked: ['a', 'b'], aside: ['a'] });
});

it('a source that fails at everything is not asked for all of it', async () => {
  const items = Array.from({ length: 100 }, (_, i) => `f${i}`);
  const { asked, aside } = await failing(Object.fromEntries(items.map((item) => [item, 99])), items);
  expect(aside).toEqual(items);
  expect(asked.length).toBeLessThan(8);
});

it('what concerns more than one file ends it', async () => {
  const full = (): Failure => new Failure('folder/full', { path: 'x' });
  await expect(failing({ a: 1, b: 0 }, undefined, full)).rejects.toMatchObject({ code: 'folder/full' });
});
