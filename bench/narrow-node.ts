export { narrow } from '#core/narrow';
