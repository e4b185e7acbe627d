/* Takes out of a text what says who somebody is, where their machine is, or what opens something of theirs. */

/** Names of folders that systems give to nobody. */
const NOBODY = new Set(['public', 'default', 'shared', 'all users', 'users', 'root', 'user', 'home']);
/** Shorter names stand in too many words. */
const LEAST_NAME = 3;

const NAME = `[^\\\\/:*?"<>|\\s][^\\\\/:*?"<>|\\r\\n]{0,60}?`;
/** A folder of one person: its name is the second group. */
const HOMES = [
  new RegExp(
    `((?:[A-Za-z]:)?[\\\\/](?:Users|home|Documents and Settings)[\\\\/])(${NAME})(?=[\\\\/]|["'\\r\\n)\\]]|\\s|$)`,
    'gi',
  ),
  new RegExp(`([\\\\/](?:media|run[\\\\/]media)[\\\\/])(${NAME})(?=[\\\\/])`, 'gi'),
];

/** What is known by its shape, and what stands in its place. */
const SHAPES: readonly (readonly [RegExp, string])[] = [
  // Whatever opens something: in an address, in a header, after its name.
  [/\b([a-z][a-z0-9+.-]*:\/\/)[^\s/@"']{1,200}@/gi, '$1'],
  [/\b(?:bearer|basic)\s+[\w.~+/=-]{8,}/gi, '[token]'],
  [
    /\b((?:api[-_ ]?key|token|secret|password|passwd|passphrase|pwd|session|auth|cookie|ticket|licen[cs]e(?:[-_ ]?key)?|serial)\b["']?\s*[=:]\s*)["']?[^\s"',;&]{3,}/gi,
    '$1[taken out]',
  ],
  [/\beyJ[\w-]{5,}\.[\w-]{5,}(?:\.[\w-]*)?/g, '[token]'],
  [/[?&#][^\s"'<>]*=[^\s"'<>]*/g, ''],
  // Where somebody is to be reached.
  [/[\w.!#$%&'*+/=?^`{|}~-]{1,80}@[\w-]{1,80}(?:\.[\w-]{1,80})+/g, '[address]'],
  [/(?<![\w.])(?:\d{1,3}\.){3}\d{1,3}(?::\d{1,5})?(?![\w.])/g, '[address]'],
  [
    /(?<![\w:])(?:[0-9a-f]{1,4}:){3,7}(?::?[0-9a-f]{1,4}){1,5}(?![\w:])|(?<![\w:])(?:[0-9a-f]{1,4}:){1,6}:(?:[0-9a-f]{1,4}(?::[0-9a-f]{1,4}){0,5})?(?![\w:])/gi,
    '[address]',
  ],
  [/(?<![\w:-])(?:[0-9a-f]{2}[:-]){5}[0-9a-f]{2}(?![\w:-])/gi, '[address]'],
  [/(?<!\d)\+\d[\d ()-]{7,16}\d/g, '[number]'],
  // Machines, accounts and shares, as systems call them.
  [/\b(?:DESKTOP|LAPTOP|WIN|PC)-[A-Z0-9]{5,12}\b/g, '[machine]'],
  [/\b[\w-]{2,40}\.(?:local|lan|home|internal)\b/gi, '[machine]'],
  [/\bS-1-5-\d{2}(?:-\d+){2,}\b/g, '[account]'],
  [/\\\\[\w.$-]{1,60}\\[\w.$ -]{1,60}/g, '[share]'],
  [
    /\b(?:user(?:name)?|login|account|computer(?: ?name)?|host(?:name)?|machine)\b(\s*(?:[=:]|is)\s*)["']?[\w.@\\-]{2,60}["']?/gi,
    '[taken out]',
  ],
  [/(?<![\d.])\d{15,20}(?![\d.])/g, '[account]'],
];

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/**
 * A text without names of people, paths through their folders, addresses, and what opens something.
 * @param names known to be private: accounts, folders as a person calls them
 */
export function withoutPrivate(text: string, names: readonly string[] = []): string {
  const found = new Set(names);
  let clean = text;
  for (const home of HOMES)
    clean = clean.replace(home, (whole, _before: string, name: string) => {
      if (NOBODY.has(name.toLowerCase())) return whole;
      found.add(name);
      return '~';
    });
  for (const [shape, instead] of SHAPES) clean = clean.replace(shape, instead);
  // Whoever has a folder by a name may stand elsewhere by it; the longest first, since one may hold another.
  for (const name of [...found].toSorted((a, b) => b.length - a.length))
    if (name.trim().length >= LEAST_NAME)
      clean = clean.replace(
        new RegExp(`(?<![\\p{L}\\p{N}])${escaped(name.trim())}(?![\\p{L}\\p{N}])`, 'giu'),
        '[name]',
      );
  return clean;
}
