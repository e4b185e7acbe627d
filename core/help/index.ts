export { withoutPrivate } from './without-private';
