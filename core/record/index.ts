export { switchedTexts, readValue, writeValue } from './value';
