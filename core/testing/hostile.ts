import { digest } from './digest';

/** A text made to take a reader long, of about `n` characters. */
export type HostileShape = (n: number) => string;

const SHA = digest('a');
const repeated = (part: string, n: number): string => part.repeat(Math.max(1, Math.floor(n / part.length)));
const metalink = (inside: string): string =>
  `<?xml version="1.0"?>\n<metalink xmlns="urn:ietf:params:xml:ns:metalink">${inside}</metalink>`;
const table = (row: string): string => `mod,release,builds,requires\n${row}`;

/** Numbers from a seed (Lehmer's generator, as Park and Miller have it), so that a text is the same each time. */
function numbers(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48271) % 2147483647);
}

function mixed(alphabet: readonly string[], seed: number): HostileShape {
  return (n) => {
    const next = numbers(seed);
    const parts: string[] = [];
    for (let length = 0; length < n;) {
      const part = alphabet[next() % alphabet.length]!;
      parts.push(part);
      length += part.length;
    }
    return parts.join('');
  };
}

/** Shapes that took some reader by more than its length, or that might. */
export const HOSTILE: Readonly<Record<string, HostileShape>> = {
  'a line of blanks': (n) => repeated(' ', n),
  'blanks before a digest': (n) => `${repeated(' ', n)}0a1b2c3d`,
  'blanks within an entry': (n) => `a${repeated(' ', n)}x`,
  'a line of digests': (n) => repeated(`${SHA} `, n),
  'digests that are paths': (n) => repeated(`${SHA}/`, n),
  'one run of digits': (n) => repeated('0a', n),
  'almost digests': (n) => repeated(`${SHA.slice(1)}x `, n),
  'quotation marks': (n) => repeated('"', n),
  apostrophes: (n) => repeated("'a.", n),
  'quotes of names': (n) => repeated('"a b" ', n),
  slashes: (n) => repeated('a/', n),
  backslashes: (n) => repeated('\\', n),
  dots: (n) => repeated('.', n),
  'dots behind a slash': (n) => `${SHA} a/${repeated('.', n)}x`,
  dashes: (n) => `${SHA} ${repeated('a-', n)}`,
  equals: (n) => repeated('a=', n),
  'line ends': (n) => repeated('\n', n),
  'carriage returns': (n) => repeated('\r', n),
  remarks: (n) => repeated('#\n', n),
  'tags of a list': (n) => `SHA256 (${repeated(') = ', n)}`,
  'a list of deep paths': (n) => repeated(`${SHA}  ${'a/'.repeat(400)}b\n`, n),
  'a list of many folders': (n) => Array.from({ length: n / 100 }, (_, i) => `${SHA}  d${i}/e${i}/f${i}\n`).join(''),
  'escaped names': (n) => `\\${SHA}  ${repeated('\\n', n)}`,
  'nested lists': (n) => repeated('[', n),
  'nested objects': (n) => repeated('{"a":', n),
  'numbers in a list': (n) => `[${repeated('1,', n)}1]`,
  'numbers in a sheet': (n) =>
    `{"format":"regressum-hold-sheet","version":1,"depots":[${repeated('1,', n)}1],"means":[]}`,
  'mods that are none': (n) => `{"format":"regressum-mod-catalogue","version":1,"mods":[${repeated('{},', n)}{}]}`,
  'builds of one name': (n) =>
    `{"format":"regressum-depot-index","version":1,"builds":[${repeated('{"label":"1","date":"2026-01-01"},', n)}{"label":"1","date":"2026-01-01"}]}`,
  'keys of an object': (n) => `[{${Array.from({ length: n / 12 }, (_, i) => `"k${i}":1`).join()}}]`,
  'one long key': (n) => `[{"${repeated('k', n)}":1}]`,
  'escapes in JSON': (n) => `["${repeated('\\u0041', n)}`,
  'nested elements': (n) => metalink(repeated('<a>', n)),
  'nested elements of a file': (n) => metalink(`<file name="a">${repeated('<url>', n)}`),
  // Names of letters that no digest has: otherwise those from a million on would be digests of eight digits.
  attributes: (n) => metalink(`<file ${Array.from({ length: n / 12 }, (_, i) => `n${i}="1"`).join(' ')}/>`),
  'one long attribute': (n) => metalink(`<file name="${repeated('a/', n)}"/>`),
  'entities of its own': (n) => `<!DOCTYPE a [${repeated('<!ENTITY a "b">', n)}]>${metalink('')}`,
  'entities in a text': (n) => metalink(repeated('&amp;', n)),
  'comments in XML': (n) => metalink(repeated('<!---->', n)),
  'an open comment': (n) => metalink(`<!--${repeated('- ', n)}`),
  'files without a size': (n) => metalink(repeated('<file name="a"/>', n)),
  'many pieces': (n) =>
    metalink(
      `<file name="a"><pieces length="1048576" type="sha-256">${repeated(`<hash>${SHA}</hash>`, n)}</pieces></file>`,
    ),
  'namespaces in XML': (n) => metalink(repeated('<x:a xmlns:x="u"/>', n)),
  commas: (n) => table(repeated(',', n)),
  'rows of a table': (n) => table(repeated('Fog,1,any,\n', n)),
  'rows of one mod': (n) => table(Array.from({ length: n / 16 }, (_, i) => `Fog,1.${i},any,\n`).join('')),
  'requirements of many words': (n) => table(`Fog,1,any,${repeated('word ', n)}`),
  'requirements of many parts': (n) => table(`Fog,1,any,${repeated('Fog 1;', n)}`),
  'alternatives of many parts': (n) => table(`Fog,1,any,${repeated('Fog|', n)}`),
  'a range of dots': (n) => table(`Fog,1,${repeated('..', n)} x,`),
  'a range of digits': (n) => table(`Fog,1,up to ${repeated('9', n)},`),
  'an open quotation': (n) => table(`"Fog,${repeated('1,2\n', n)}`),
  'quotes within quotes': (n) => table(`"${repeated('a"', n)},`),
  'a long name': (n) => table(`${repeated('Fog ', n)},1,any,`),
  'signs at random': mixed(
    [' ', '\n', '"', "'", '/', '\\', '.', ',', ';', '=', '(', ')', '#', SHA, 'a', '0a1b2c3d'],
    7,
  ),
  'XML at random': mixed(
    ['<file name="a">', '</file>', '<size>', '1', '<hash>', '&', '<![CDATA[', ']]>', '<!--', '-->'],
    11,
  ),
  'JSON at random': mixed(['{', '}', '[', ']', '"a"', ':', ',', '1', 'null', ' '], 13),
};
