export { readValue, writeValue } from './value';
