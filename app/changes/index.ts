export { type KeptChange, keptChanges } from './kept';
export { type Changes, changesOf } from './changes-of';
export { changeSet, type EditedFile, editSteps, inPlaceSteps, isInPlace, layDownSteps } from './plans';
export { readRecord, recordMeans, recordSteps, recordText } from './install-record';
