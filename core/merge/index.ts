export { type Change, changesBetween } from './diff';
export { mergeParts, type Part } from './three-way';
export { linesOf, mergedText, mergeText, type TextMerge } from './text';
