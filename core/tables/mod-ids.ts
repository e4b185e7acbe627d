import { asMod, type ModId } from '#core/builds';

const MAX_ID = 60;
/** Characters of the mark that tells names apart whose letters alone do not. */
const MARK_DIGITS = 10;

/** A name as it is compared: letter case and the number of blanks are no difference between two mods. */
export const nameKey = (name: string): string => name.normalize('NFC').trim().replace(/\s+/g, ' ').toLowerCase();

/** Two runs of FNV-1a (Fowler, Noll, Vo; 32 bits, offset bases of our own for the second) as digits of base 36. */
function markOf(text: string): string {
  const hash = (basis: number): number => {
    let value = basis;
    for (let i = 0; i < text.length; i++) {
      value = Math.imul(value ^ (text.charCodeAt(i) & 0xff), 0x01000193);
      value = Math.imul(value ^ (text.charCodeAt(i) >> 8), 0x01000193);
    }
    return value >>> 0;
  };
  const both = BigInt(hash(0x811c9dc5)) * 2n ** 32n + BigInt(hash(0x9e3779b9));
  return both.toString(36).padStart(MARK_DIGITS, '0').slice(-MARK_DIGITS);
}

/** Letters and digits of a name, with dashes between. */
const plainOf = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '');

/**
 * The id of a name with a mark that is made of the whole name, so that names get different ids whose letters and digits are
 * the same, such as `Tool C` and `Tool C++`.
 */
export function markedId(name: string): ModId {
  const plain = plainOf(name)
    .slice(0, MAX_ID - MARK_DIGITS - 1)
    .replace(/-$/, '');
  return asMod(`${plain || 'mod'}-${markOf(nameKey(name))}`);
}

/**
 * An id from a name: its letters and digits with dashes between, where those are all that is in it; else with a mark
 * besides. Names that differ in more than letter case and blanks share an id only where one has a dash for a blank.
 */
export function idOfName(name: string): ModId {
  const plain = plainOf(name);
  const isAll = nameKey(name).replace(/[\s-]+/g, '-') === plain && plain.length <= MAX_ID;
  return isAll && plain !== '' ? asMod(plain) : markedId(name);
}
