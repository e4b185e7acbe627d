export { CAUSE_PARTS, compile } from './compile';
export { type PatternFault, patternFaults } from './faults';
