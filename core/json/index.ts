export { parseJson } from './parse-json';
