export { mergedText, mergeText } from '#core/merge';
