export { mergeCsv } from './csv';
export { type Change, changesBetween } from './diff';
export { mergeParts, type Part } from './three-way';
export { linesOf, mergedText, mergeText, type TextMerge } from './text';
export { mergeIni } from './ini';
export { mergeJson } from './json';
export type { StructuredMerge, ValueChange } from './keyed';
