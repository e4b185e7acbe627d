import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { failureCode } from '../testing/digest';
import { assertSafePath, depthOf, fileName, folderOf, isBelow, PathSet, topFolder } from './index';

describe('safe paths', () => {
  it.each([
    ['../a', 'path/climbs'],
    ['a/../b', 'path/climbs'],
    ['..\\a', 'path/climbs'],
    ['/a', 'path/absolute'],
    ['C:/a', 'path/absolute'],
    ['a//b', 'path/empty'],
    ['a/con.txt', 'path/reserved-name'],
    ['a/b.', 'path/trailing-dot-or-space'],
    ['a\u0000b', 'path/forbidden-character'],
    ['a/b', 'accepted'],
    ['con .txt', 'path/reserved-name'],
    ['LPT1  .log', 'path/reserved-name'],
    ['a/com0', 'path/reserved-name'],
    ['console.txt', 'accepted'],
    ['a\u202egpj.exe', 'path/forbidden-character'],
    ['a\u2066b', 'path/forbidden-character'],
    ['pay\u200bload', 'path/forbidden-character'],
    ['pay\u00adload', 'path/forbidden-character'],
    ['\ufeffname', 'path/forbidden-character'],
    ['tag\u{e0041}', 'path/forbidden-character'],
    ['a\u0085b', 'path/forbidden-character'],
    ['a\u009fb', 'path/forbidden-character'],
    ['a\ud800b', 'path/forbidden-character'],
    ['heart \u2764\ufe0f', 'accepted'],
    ['日本語/표.csv', 'accepted'],
    ['line\u2028mark', 'accepted'],
  ])('%j: %s', (path, expected) => {
    expect(failureCode(() => new PathSet().add(path))).toBe(expected);
  });

  it.each([
    [['a/b', 'a/B']],
    [['Data/x', 'data/y']],
    [['caf\u00e9', 'cafe\u0301']],
    [['a', 'a/b']],
    [['a/b', 'a/b']],
    [['straße', 'straẞe']],
    [['straße', 'STRASSE']],
    [['ſet', 'set']],
    [['\u212am', 'km']],
    [['❤', '❤\ufe0f']],
  ])('refuses %j side by side', (paths) => {
    const set = new PathSet();
    expect(failureCode(() => paths.forEach((path) => set.add(path)))).toBe('path/collides');
  });

  it('name the other path of a collision, and the place of the one refused', () => {
    const set = new PathSet();
    set.add('Tables/fares.csv');
    try {
      set.add('tables/Fares.csv', { file: 'list.txt', line: 7 });
      expect.unreachable();
    } catch (error) {
      expect(error).toMatchObject({ facts: { path: 'tables/Fares.csv', other: 'Tables', file: 'list.txt', line: 7 } });
    }
  });

  it('are no longer than a file system takes', () => {
    expect(failureCode(() => assertSafePath('a'.repeat(256)))).toBe('path/too-long');
    expect(failureCode(() => assertSafePath(`${'a/'.repeat(512)}b`))).toBe('path/too-long');
    expect(failureCode(() => assertSafePath('a'.repeat(255)))).toBe('accepted');
    expect(failureCode(() => assertSafePath('ä'.repeat(127)))).toBe('accepted');
    expect(failureCode(() => assertSafePath('ä'.repeat(128)))).toBe('path/too-long');
    expect(failureCode(() => assertSafePath('日'.repeat(86)))).toBe('path/too-long');
  });

  it('never leave the folder, whatever is let in', () => {
    const part = fc.constantFrom('..', '.', '', 'a', 'b.txt', '..\\c', 'C:', '/', '...', 'nul');
    fc.assert(
      fc.property(fc.array(part, { minLength: 1, maxLength: 5 }), (parts) => {
        const path = parts.join('/');
        if (failureCode(() => assertSafePath(path)) !== 'accepted') return;
        const address = new URL(path.split('/').map(encodeURIComponent).join('/'), 'http://host/folder/');
        expect(decodeURIComponent(address.pathname)).toBe(`/folder/${path}`);
      }),
    );
  });
});

describe('the parts of a path', () => {
  it.each([
    ['a', '', 'a', '', 0],
    ['a/b', 'a', 'b', 'a', 1],
    ['a/b/c.d', 'a/b', 'c.d', 'a', 2],
  ])('%s', (path, folder, name, top, depth) => {
    expect([folderOf(path), fileName(path), topFolder(path), depthOf(path)]).toEqual([folder, name, top, depth]);
  });

  it('a folder whose name begins alike is another folder', () => {
    expect(isBelow('saves2/1', 'saves')).toBe(false);
    expect(isBelow('saves/1', 'saves')).toBe(true);
    expect(isBelow('saves', 'saves')).toBe(false);
    expect(isBelow('saves', '')).toBe(true);
  });
});
