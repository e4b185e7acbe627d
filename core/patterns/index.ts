export { compile } from './compile';
export { type PatternFault, patternFaults } from './faults';
