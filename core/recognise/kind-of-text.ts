import { isFailure } from '#core/failure';
import { hasDigest, parseChecksumList } from '#core/lists';
import { guessColumns, NEEDED_FIELDS } from '#core/tables';

/** What a text is that somebody hands over without a word. */
export type TextKind =
  | 'metalink'
  | 'hold-sheet'
  | 'depot-index'
  | 'mod-catalogue'
  | 'game'
  | 'profile'
  | 'checksum-list'
  | 'mod-table'
  | 'log'
  | 'unknown';

/** The formats of this program's own, by what they say of themselves. */
const OWN_FORMATS = {
  'regressum-hold-sheet': 'hold-sheet',
  'regressum-depot-index': 'depot-index',
  'regressum-mod-catalogue': 'mod-catalogue',
  'regressum-game': 'game',
  'regressum-profile': 'profile',
} as const;

/** Lines at the head of a text that decide whether it is a checksum list; the rest is read when it is taken over. */
const LINES_LOOKED_AT = 20;
/** Characters that the heads of a table take at the most. */
const LONGEST_HEAD = 20_000;

/** Whether a line has the form of an entry; its path may be a bad one. */
function isEntry(line: string): boolean {
  try {
    return parseChecksumList(line, '').files.length === 1;
  } catch (error) {
    return isFailure(error) && error.code.startsWith('path/');
  }
}

function isChecksumList(text: string): boolean {
  const lines = text.split('\n', LINES_LOOKED_AT).filter((line) => line.trim() !== '');
  return lines.length > 0 && lines.filter(isEntry).length > lines.length / 2;
}

/** Whether the heads of its columns, or the fields of its first object, are those of a table of mods. */
function isModTable(whole: string): boolean {
  const text = whole.slice(0, LONGEST_HEAD);
  const json = /^\[\s*\{([^}]*)/.exec(text);
  const heads = json
    ? [...json[1]!.matchAll(/"([^"]+)"\s*:/g)].map(([, key]) => key!)
    : text
        .split(/\r?\n/, 1)[0]!
        .split(/[,;\t|]/)
        .map((head) => head.replace(/^"|"$/g, ''));
  const columns = guessColumns(heads);
  return NEEDED_FIELDS.every((field) => columns[field] !== undefined);
}

/**
 * Tells a text by what is in it, not by its file's name. A text that claims to be of a kind and has faults is still of
 * that kind: whoever reads it says where the fault is.
 */
export function kindOfText(text: string): TextKind {
  const start = text.slice(/^\ufeff?\s*/.exec(text)![0].length);
  if (/^<\?xml|^<metalink/.test(start) && /<metalink[\s>]/.test(start.slice(0, 4096))) return 'metalink';
  const format = start.startsWith('{') && /"format"\s*:\s*"([a-z-]+)"/.exec(text)?.[1];
  const own = Object.entries(OWN_FORMATS).find(([name]) => name === format);
  if (own) return own[1];
  if (isChecksumList(text)) return 'checksum-list';
  if (isModTable(start)) return 'mod-table';
  return hasDigest(text) ? 'log' : 'unknown';
}
