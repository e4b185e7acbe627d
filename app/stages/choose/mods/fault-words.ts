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
  'too-long': 'is too long or contains spaces',
  'too-many-parts': 'has too many entries',
  'no-range': 'is not a build, a range, “up to …” or “… or newer”',
  'no-such-build': 'contains no known build',
  'no-such-mod': 'is neither in the catalogue nor in this table',
  'no-such-release': 'names a release that the mod does not have',
  'no-such-weight': 'must be must, want or spare',
  'no-such-kind': 'must be loader, library, native, script, data, menu, texture or sound',
  twice: 'is listed twice for this mod',
  'two-weights': 'differs from the weight given above for the same mod',
};

/** What is wrong with a cell, as a sentence. */
export const faultWords = ({ field, cell, fault }: TableFault): string =>
  `${FIELD_WORDS[field][0]!.toUpperCase()}${FIELD_WORDS[field].slice(1)} ${cell === '' ? '' : `“${cell}” `}${FAULT_WORDS[fault]}.`;
