import { mergeCsv, sharedColumns } from './csv';
import { type Decide, type Merge } from './difference';
import { mergeIni } from './ini';
import { mergeJson } from './json';
import { mergeRecords, type RecordLayout } from './records';
import { mergeText } from './text';
import { mergeXml } from './xml';

/* Files of any kind. */

export type MergeKind = 'table' | 'json' | 'xml' | 'ini' | 'records' | 'text';

export interface FileMerge extends Merge {
  /** What it was merged as. */
  readonly kind: MergeKind;
  /** Of a table: the columns that tell rows apart. */
  readonly key?: readonly string[];
  /** Of what is written as a table: the columns that may tell rows apart, also where none does by itself. */
  readonly columns?: readonly string[];
}

/** What a merge is told of a file. */
export interface FileHints {
  readonly path: string;
  /** The columns of a table that tell its rows apart. */
  readonly key?: readonly string[];
  /** What lies where in a file of records. */
  readonly layout?: RecordLayout;
}

/** Kinds by what files of them are called. */
const ENDINGS: readonly (readonly [RegExp, MergeKind])[] = [
  [/\.(csv|tsv|tab)$/i, 'table'],
  [/\.(json|jsonc|json5)$/i, 'json'],
  [/\.(xml|xaml|xsl|xslt|xsd|svg)$/i, 'xml'],
  [/\.(ini|cfg|conf|inf|properties)$/i, 'ini'],
];

/** A line of a section, or of a name and a value: most lines of a file of them are that, remarks, or blank. */
const INI_LINE = /^\s*(?:$|[;#]|\[[^\]]*\]\s*$|[^=:;#[\s][^=:]*=)/;
const LINES_LOOKED_AT = 200;

/** The kinds that a text may be of, the likeliest first, whatever its name says. */
function kindsOf(text: string, path: string): MergeKind[] {
  const byName = ENDINGS.find(([ending]) => ending.test(path))?.[1];
  const start = text.trimStart();
  const byShape: MergeKind[] = [];
  if (/^[{[/]/.test(start)) byShape.push('json');
  if (start.startsWith('<')) byShape.push('xml');
  const lines = text.split('\n', LINES_LOOKED_AT);
  if (/^\s*\[[^\]]*\]\s*$/m.test(text) && lines.every((line) => INI_LINE.test(line))) byShape.push('ini');
  // Names and values are read into anything: a file is that only where its lines look like it.
  const looksLikeIni = byName === 'ini' && lines.filter((line) => INI_LINE.test(line)).length * 10 > lines.length * 9;
  const named = byName === undefined || (byName === 'ini' && !looksLikeIni) ? [] : [byName];
  return [...new Set<MergeKind>([...named, ...byShape, 'text'])];
}

type Three<T> = readonly [base: T, ours: T, theirs: T];

function mergeAs(
  kind: MergeKind,
  [base, ours, theirs]: Three<string>,
  decide: Decide,
  key?: readonly string[],
): (Merge & { readonly key?: readonly string[] }) | undefined {
  switch (kind) {
    case 'table':
      return mergeCsv(base, ours, theirs, decide, key);
    case 'json':
      return mergeJson(base, ours, theirs, decide);
    case 'xml':
      return mergeXml(base, ours, theirs, decide);
    case 'ini':
      return mergeIni(base, ours, theirs, decide);
    default:
      return mergeText(base, ours, theirs, decide);
  }
}

/** @throws Error where a merge cannot be read as what it is */
function assertReadable(kind: MergeKind, merged: string, ours: string, key?: readonly string[]): void {
  const again = mergeAs(kind, [ours, merged, ours], () => undefined, key);
  if (again?.merged !== merged) throw new Error(`A merge of the kind ${kind} cannot be read again.`);
}

/**
 * Merges two texts that were made from a third, as the kind that their contents fit.
 * @param texts of a file with a layout: texts with a sign for each byte
 * @returns undefined where the layout does not fit them; without one, any texts can be merged
 */
export function mergeFile(texts: Three<string>, hints: FileHints, decide: Decide): FileMerge | undefined {
  if (hints.layout) {
    const merge = mergeRecords(...texts, decide, hints.layout);
    return merge && { ...merge, kind: 'records', key: hints.layout.key };
  }
  const [, ours] = texts;
  for (const kind of kindsOf(ours, hints.path)) {
    const merge = mergeAs(kind, texts, decide, hints.key);
    if (!merge) continue;
    if (merge.merged !== undefined && merge.merged !== texts[2]) assertReadable(kind, merge.merged, ours, merge.key);
    const columns = kind === 'table' || kind === 'text' ? columnsOf(texts, hints.path) : undefined;
    return { ...merge, kind, ...(columns && { columns }) };
  }
  return undefined;
}

const columnsOf = (texts: Three<string>, path: string): readonly string[] | undefined =>
  ENDINGS.some(([ending, kind]) => kind === 'table' && ending.test(path)) ? sharedColumns(texts) : undefined;
