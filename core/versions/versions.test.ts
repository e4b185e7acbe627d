import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { programVersion, versionAgrees, versionInText } from '.';

/** A node of the tree of versions, as VS_VERSIONINFO has it. */
function node(name: string, value: Uint8Array, isText: boolean, children: readonly Uint8Array[] = []): Uint8Array {
  const aligned = (n: number): number => (n + 3) & ~3;
  const start = aligned(6 + 2 * (name.length + 1));
  const parts = children.reduce((sum, child) => aligned(sum) + child.length, aligned(start + value.length));
  const bytes = new Uint8Array(children.length > 0 ? parts : start + value.length);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, bytes.length, true);
  view.setUint16(2, isText ? value.length / 2 : value.length, true);
  view.setUint16(4, isText ? 1 : 0, true);
  [...name].forEach((sign, i) => view.setUint16(6 + 2 * i, sign.charCodeAt(0), true));
  bytes.set(value, start);
  let at = aligned(start + value.length);
  for (const child of children) {
    bytes.set(child, at);
    at = aligned(at + child.length);
  }
  return bytes;
}

const utf16 = (text: string): Uint8Array =>
  new Uint8Array(Uint16Array.from([...text, '\0'], (sign) => sign.charCodeAt(0)).buffer);

/** A program with a resource of versions, of 32 or 64 bits. */
function program(texts: Record<string, string>, numbers: readonly number[], wide: boolean): Uint8Array {
  const fixed = new DataView(new ArrayBuffer(52));
  fixed.setUint32(0, 0xfeef04bd, true);
  fixed.setUint32(16, ((numbers[0]! << 16) | numbers[1]!) >>> 0, true);
  fixed.setUint32(20, ((numbers[2]! << 16) | numbers[3]!) >>> 0, true);
  const strings = Object.entries(texts).map(([name, text]) => node(name, utf16(text), true));
  const table = node('StringFileInfo', new Uint8Array(0), true, [node('040904b0', new Uint8Array(0), true, strings)]);
  const info = node('VS_VERSION_INFO', new Uint8Array(fixed.buffer), false, [table]);
  const bytes = new Uint8Array(0x600 + info.length);
  const view = new DataView(bytes.buffer);
  const pe = 0x80;
  const directories = pe + 24 + (wide ? 112 : 96);
  const sections = pe + 24 + (wide ? 240 : 224);
  view.setUint16(0, 0x5a4d, true);
  view.setUint32(60, pe, true);
  view.setUint32(pe, 0x4550, true);
  view.setUint16(pe + 6, 2, true);
  view.setUint16(pe + 20, sections - pe - 24, true);
  view.setUint16(pe + 24, wide ? 0x20b : 0x10b, true);
  view.setUint32(directories - 4, 16, true);
  view.setUint32(directories + 16, 0x3000, true);
  // The section before ends where that of the resources begins.
  const section = (at: number, size: number, address: number, offset: number): void =>
    [size, address, size, offset].forEach((value, i) => view.setUint32(sections + at + 8 + 4 * i, value, true));
  section(0, 0x2000, 0x1000, 0x200);
  section(40, 0x1000, 0x3000, 0x400);
  // Three folders after one another, then the entry of the resource.
  const folder = (at: number, id: number, offset: number): void => {
    view.setUint16(0x400 + at + 14, 1, true);
    view.setUint32(0x400 + at + 16, id, true);
    view.setUint32(0x400 + at + 20, offset, true);
  };
  folder(0, 16, 0x8000_0000 + 0x20);
  folder(0x20, 1, 0x8000_0000 + 0x40);
  folder(0x40, 0x409, 0x60);
  view.setUint32(0x460, 0x3200, true);
  view.setUint32(0x464, info.length, true);
  bytes.set(info, 0x600);
  return bytes;
}

const reading = (bytes: Uint8Array) => async (start: number, end: number) => bytes.slice(start, end);

describe('what a program says of itself', () => {
  it.each([true, false])('is its product’s version, else its file’s, else its numbers (64 bits: %s)', async (wide) => {
    const say = (texts: Record<string, string>) => programVersion(reading(program(texts, [3, 1, 0, 7], wide)));
    expect(await say({ CompanyName: 'Nobody', FileVersion: '9.9', ProductVersion: '3.1.1 beta' })).toBe('3.1.1 beta');
    expect(await say({ FileVersion: '9.9', ProductName: 'x' })).toBe('9.9');
    expect(await say({ ProductVersion: '' })).toBe('3.1.0.7');
    expect(await say({})).toBe('3.1.0.7');
  });

  it('is nothing for what is no program, is cut off, or lies', async () => {
    const whole = program({ ProductVersion: '1.2' }, [1, 2, 0, 0], true);
    for (const bytes of [
      new Uint8Array(0),
      new TextEncoder().encode('#!/bin/sh\n'),
      whole.slice(0, 0x90),
      whole.slice(0, 0x600),
    ])
      expect(await programVersion(reading(bytes))).toBeUndefined();
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { maxLength: 40 }),
        async (changes) => {
          const bytes = whole.slice();
          for (const [at, value] of changes) bytes[at] = value;
          const said = await programVersion(reading(bytes));
          expect(said === undefined || said.length <= 60).toBe(true);
        },
      ),
    );
  });
});

describe('a version', () => {
  it.each([
    ['3.1.1.0', '3.1.1', true],
    ['v2.9', '2.9.4', true],
    ['2,9,4,0', '2.9.4', true],
    ['2.9.4', '2.10.4', false],
    ['3.1.1', '2.9.4', false],
    ['Deep Locks', '3.0.0', undefined],
    ['harvest', 'harvest', true],
  ])('%s against %s: %s', (said, label, agrees) => expect(versionAgrees(said, label)).toBe(agrees));

  it('is found in a text by a pattern', () => {
    expect(versionInText('name=Glass\nbuild = 12 \n', '^build = (.*)$')).toBe('12');
    expect(versionInText('nothing', '^build = (.*)$')).toBeUndefined();
  });
});
