export { kindOfText, type TextKind } from './kind-of-text';
