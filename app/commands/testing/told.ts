import { afterEach, beforeEach, expect, vi } from 'vitest';

/*
 * What a command writes down of what a person has decided is told to this page and the others, which ask again then. Whatever test
 * imports this file, before it imports a command, fails where one of them does not.
 */

const written = vi.hoisted((): { untold: Set<string> } => ({ untold: new Set() }));

/** What writes decisions down; jobs write other things too. */
const WRITES = /^(add|remove|update|put|note)(Game|Trial|Hold|Install|Profile|OwnMods?|Shelved|Learned)$/;

vi.mock('~/store', async (original) => {
  const store = await original<Record<string, unknown>>();
  const watched = (name: string, value: unknown): unknown => {
    if (name === 'broadcast')
      return (message: { type: string }) => {
        if (message.type === 'changed') written.untold.clear();
        return (value as (message: unknown) => void)(message);
      };
    if (!WRITES.test(name)) return value;
    return async (...args: unknown[]) => {
      const answer = await (value as (...args: unknown[]) => unknown)(...args);
      written.untold.add(name);
      return answer;
    };
  };
  return Object.fromEntries(Object.entries(store).map(([name, value]) => [name, watched(name, value)]));
});

/** Of what nobody is to be told. */
export const isForNobody = (): void => written.untold.clear();

/** For between two commands of a test: what the next one tells would stand for this one too. */
export const expectTold = (): void => expect([...written.untold], 'written down, and told to nobody').toEqual([]);

beforeEach(isForNobody);
afterEach(expectTold);
