import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { OWN_KINDS } from '#core/builds';
import { contentKey } from '#core/digest';
import { type OwnFile, ownName } from '#core/keepsakes';
import { ALL_SHARED, leavePools, type Pools, type Sharing, switchOwn } from './index';

const fileArbitrary = fc.record({
  path: fc.constantFrom('a', 'b', 'c'),
  kind: fc.constantFrom(...OWN_KINDS),
  letter: fc.constantFrom('a', 'b', 'c'),
  along: fc.boolean(),
});
/** A file's kind goes by its place, so each kind has names of its own. */
const filesArbitrary = fc
  .array(fileArbitrary, { maxLength: 6 })
  .map((files) =>
    files.map(({ path, kind, letter, along }): OwnFile => ({
      ...{ place: 'game', path: along ? `mods/${path}` : `${kind}/${path}`, modified: 0 },
      ...{ kind: along ? 'content' : kind, key: contentKey(1, [letter.repeat(64)]) },
      ...(along && { along: true as const }),
    })),
  )
  .map((files) => [...new Map(files.map((file) => [ownName(file), file])).values()]);
const sharingArbitrary: fc.Arbitrary<Sharing> = fc.record({
  ...{ saves: fc.constantFrom('own', 'shared'), settings: fc.constantFrom('own', 'shared') },
  ...{ content: fc.constantFrom('own', 'shared'), presets: fc.constantFrom('own', 'shared') },
} as const);

const text = (files: readonly OwnFile[]): string[] => files.map((file) => `${ownName(file)} ${file.key}`).toSorted();

describe('switching profiles', () => {
  /** An install on which profiles take turns, as the job does it. */
  class Turns {
    pools: Pools = new Map();
    readonly keepsakes = new Map<string, readonly OwnFile[]>();
    now: readonly OwnFile[] = [];

    switch(from: { id: string; sharing: Sharing }, to: { id: string; sharing: Sharing }): void {
      const keepsake = `k${this.keepsakes.size}`;
      this.keepsakes.set(keepsake, this.now);
      const along = new Set(this.now.filter((file) => file.along).map(ownName));
      const { put, take } = switchOwn({ from, to, pools: this.pools }, this.now, along, (id) => {
        const files = this.keepsakes.get(id);
        return files && { files: [...files] };
      });
      for (const { path, now } of put) expect(this.now.find((file) => file.path === path)?.key ?? null).toBe(now);
      const files = new Map(this.now.map((file) => [ownName(file), file]));
      for (const file of take) files.delete(ownName(file));
      for (const { now: _, ...file } of put) files.set(ownName(file), file);
      this.pools = leavePools(this.pools, from, keepsake);
      this.now = [...files.values()];
    }
  }

  it('away and back brings back what a profile has for itself, whatever was played in between', () => {
    fc.assert(
      fc.property(filesArbitrary, filesArbitrary, sharingArbitrary, sharingArbitrary, (first, second, one, other) => {
        const turns = new Turns();
        const [a, b] = [
          { id: 'a', sharing: one },
          { id: 'b', sharing: other },
        ];
        turns.now = first;
        turns.switch(a, b);
        turns.now = second;
        turns.switch(b, a);
        const isOwnOf = (sharing: Sharing) => (file: OwnFile) => file.along === true || sharing[file.kind] === 'own';
        const isShared = (file: OwnFile): boolean => !isOwnOf(one)(file) && !isOwnOf(other)(file);
        expect(text(turns.now.filter(isOwnOf(one)))).toEqual(text(first.filter(isOwnOf(one))));
        // What both share is as it was left last.
        expect(text(turns.now.filter(isShared))).toEqual(text(second.filter(isShared)));
        turns.switch(a, b);
        expect(text(turns.now.filter(isOwnOf(other)))).toEqual(text(second.filter(isOwnOf(other))));
      }),
    );
  });

  it('one that starts empty has nothing of its own kinds, and leaves shared files alone', () => {
    const file = (kind: OwnFile['kind']): OwnFile => ({
      ...{ place: 'game', path: kind, kind, key: contentKey(1, ['a'.repeat(64)]), modified: null },
    });
    const to = { id: 'b', sharing: { ...ALL_SHARED, saves: 'own' as const }, startsEmpty: true };
    const now = [file('saves'), file('settings')];
    const { put, take } = switchOwn(
      { from: { id: 'a', sharing: ALL_SHARED }, to, pools: new Map() },
      now,
      new Set(),
      () => ({ files: [] }),
    );
    expect([put, take.map(({ path }) => path)]).toEqual([[], ['saves']]);
  });

  it('a save that could not be kept stays when its profile is come back to', () => {
    const file = (path: string): OwnFile => ({
      ...{ place: 'game', path, kind: 'saves', key: contentKey(1, ['a'.repeat(64)]), modified: null },
    });
    const own = { ...ALL_SHARED, saves: 'own' as const };
    const { put, take } = switchOwn(
      { from: { id: 'b', sharing: own }, to: { id: 'a', sharing: own }, pools: new Map([['a/saves', 'kept']]) },
      [file('written'), file('of b')],
      new Set(),
      () => ({ files: [], unread: ['written'] }),
    );
    expect([put, take.map(({ path }) => path)]).toEqual([[], ['of b']]);
  });

  it('a pool whose keepsake is gone stays as it is', () => {
    const own = { ...ALL_SHARED, saves: 'own' as const };
    const pools = new Map([['b/saves', 'gone']]);
    const { put, take } = switchOwn(
      { from: { id: 'a', sharing: own }, to: { id: 'b', sharing: own, startsEmpty: true }, pools },
      [{ place: 'game', path: 's', kind: 'saves', key: contentKey(1, ['a'.repeat(64)]), modified: 0 }],
      new Set(),
      () => undefined,
    );
    expect([put, take]).toEqual([[], []]);
  });
});
