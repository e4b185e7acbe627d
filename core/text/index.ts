export { shortenMiddle } from './shorten';
export { utf8Length } from './utf8';
