import { parse } from 'jsonc-parser';
import { fileName, folderOf } from '#core/paths';

/** What a mod says of itself in a text of its own. */
export interface Told {
  readonly id?: string;
  readonly name?: string;
  readonly version?: string;
}

const FIELDS = ['id', 'name', 'version'] as const;
/** A name and its value on a line of their own, as in INI, TOML or YAML. */
const LINE = /^[\t ]*["']?(id|name|version)["']?[\t ]*[:=][\t ]*["']?([^"'\r\n]{1,80}?)["']?[\t ]*,?[\t ]*$/gim;
/** An attribute of the first element, or an element with nothing but a text in it, as in XML. */
const ATTRIBUTE = /\b(id|name|version)\s*=\s*"([^"<>]{1,80})"/gi;
const ELEMENT = /<(id|name|version)>([^<>]{1,80})<\/\1>/gi;

const known = (pairs: Iterable<readonly [string, unknown]>): Told => {
  const told: { id?: string; name?: string; version?: string } = {};
  for (const [field, value] of pairs) {
    const name = FIELDS.find((one) => one === field.toLowerCase());
    const text = typeof value === 'string' ? value.trim() : typeof value === 'number' ? String(value) : '';
    if (name && text !== '' && text.length <= 80) told[name] ??= text;
  }
  return told;
};

/** What a text tells of the mod that it is in, in JSON, XML, or a name and a value a line; nothing where it is another text. */
export function toldByText(text: string): Told {
  const start = text.replace(/^\ufeff/, '').trimStart();
  // Remarks, and a comma too many, are forgiven.
  if (start.startsWith('{')) return known(Object.entries((parse(start) ?? {}) as Record<string, unknown>));
  const pairs = (pattern: RegExp, of: string): (readonly [string, string])[] =>
    [...of.matchAll(pattern)].map(([, field, value]) => [field!, value!]);
  if (!start.startsWith('<')) return known(pairs(LINE, start));
  const first = start.replace(/^(?:<[?!][^>]*>\s*)+/, '').split('>', 1)[0]!;
  return known([...pairs(ELEMENT, start), ...pairs(ATTRIBUTE, first)]);
}

/** Files that tell of a mod by custom, the better ones first: one that is called so, then any. */
const CUSTOMARY = /^(?:mod|manifest|info|about|package|modinfo|meta)\b/i;

/** What the texts that lie directly in a folder tell of its mod. */
export function toldInFolder(texts: readonly (readonly [path: string, text: string])[]): (folder: string) => Told {
  const byFolder = new Map<string, [path: string, text: string][]>();
  for (const [path, text] of texts)
    byFolder.set(folderOf(path), [...(byFolder.get(folderOf(path)) ?? []), [path, text]]);
  return (folder) => {
    const own = byFolder.get(folder) ?? [];
    const sorted = own.toSorted(
      ([a], [b]) => Number(CUSTOMARY.test(fileName(b))) - Number(CUSTOMARY.test(fileName(a))),
    );
    return sorted.map(([, text]) => toldByText(text)).reduce((all, one) => ({ ...one, ...all }), {});
  };
}
