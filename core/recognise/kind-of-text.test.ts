import { expect, it } from 'vitest';
import { digest } from '../testing/digest';
import { kindOfText } from './kind-of-text';

const list = Array.from({ length: 30 }, (_, i) => `${digest(String(i))}  data/${i}.tab`);

it.each([
  ['a checksum list', list.join('\n'), 'checksum-list'],
  ['one that a shell wrote with a mark and CRLF', `\ufeff${list.join('\r\n')}\r\n`, 'checksum-list'],
  ['one of a single file', `${digest('a')}  bin/ferrywake.prog\n`, 'checksum-list'],
  ['one with a remark and a bad path', `; made by hand\n${digest('a')}  ../a\n${digest('b')}  b`, 'checksum-list'],
  ['a log that names a checksum', `18:02 loader: unknown program, SHA-256 ${digest('a')}, stopped`, 'log'],
  ['a Metalink document', '<?xml version="1.0"?>\n<metalink xmlns="urn:ietf:params:xml:ns:metalink">', 'metalink'],
  ['a hold sheet with a fault in it', '{"version": "x", "format" : "regressum-hold-sheet"', 'hold-sheet'],
  ['an index of builds', '{\n  "format": "regressum-depot-index",', 'depot-index'],
  ['a catalogue', '{"version":1,"format":"regressum-mod-catalogue"}', 'mod-catalogue'],
  ['a game', '{"format":"regressum-game"}', 'game'],
  ['another program’s', '{"format":"other"}', 'unknown'],
  ['a table of mods', 'Mod;Version;"Supported builds"\nFog;1;2.9.4', 'mod-table'],
  ['one as JSON', '[\n {"mod": "Fog", "release": "1", "builds": []}', 'mod-table'],
  ['another table', 'name,age\nFog,3', 'unknown'],
  ['another XML document', '<?xml version="1.0"?><svg/>', 'unknown'],
  ['words', 'Dear ferryhand,\nthe tables are wrong again.', 'unknown'],
  ['nothing', '', 'unknown'],
])('%s', (_, text, kind) => {
  expect(kindOfText(text)).toBe(kind);
});
