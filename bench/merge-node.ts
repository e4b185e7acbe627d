export { mergeCsv, mergedText, mergeIni, mergeJson, mergeText } from '#core/merge';
