export { type Changes, changesOf } from './changes-of';
export { changeDisk, type ChangeTask } from './change-task';
export { dropDisk, installDisk, withPointer } from './install-disk';
export { changeSet, type EditedFile, editSteps, layDownSteps } from './plans';
