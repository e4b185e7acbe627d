import { MOD_FIELDS, type ModField, type TableFault } from '#core/tables';

export const FIELD_WORDS: Record<ModField, string> = {
  mod: 'name of the mod',
  release: 'release',
  builds: 'supported builds',
  requires: 'requirements',
  optional: 'optional requirements',
  conflicts: 'conflicts',
  weight: 'weight',
  author: 'author',
  kind: 'kind',
};

export const FIELD_CHOICES = MOD_FIELDS.map((value) => ({ value: value as string, label: FIELD_WORDS[value] }));

const FAULT_WORDS: Record<TableFault['fault'], string> = {
  empty: 'must not be empty',
  'too-long': 'is too long, or has blanks in it',
  'too-many-parts': 'has more parts than a cell may have',
  'no-range': 'is no build, range, “up to …” or “… or newer”',
  'no-such-build': 'holds no build that is known',
  'no-such-mod': 'is no mod of the catalogue or of this table',
  'no-such-release': 'names a release that the mod does not have',
  'no-such-weight': 'is none of must, want, spare',
  'no-such-kind': 'is none of loader, library, native, script, data, menu, texture, sound',
  twice: 'stands twice for this mod',
  'two-weights': 'is another weight than the same mod has above',
};

/** What is wrong with a cell, as a sentence. */
export const faultWords = ({ field, cell, fault }: TableFault): string =>
  `${FIELD_WORDS[field][0]!.toUpperCase()}${FIELD_WORDS[field].slice(1)} ${cell === '' ? '' : `“${cell}” `}${FAULT_WORDS[fault]}.`;
