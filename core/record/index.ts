export { otherValues, readValue, writeValue } from './value';
