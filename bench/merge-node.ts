export { mergeCsv, mergeIni, mergeJson, mergeText, mergeXml } from '#core/merge';
