export { parseJson } from './parse-json';
export type { JsonFault } from './scan';
