import fc from 'fast-check';
import { keyOf } from './digest';

/** Small trees over few paths and contents, so that two of them share some and differ in others. */
export const treeArbitrary = fc
  .uniqueArray(fc.record({ path: fc.stringMatching(/^[a-e]$/), text: fc.constantFrom('', 'x', 'yy', 'zzz') }), {
    selector: ({ path }) => path,
  })
  .map((files) => files.map(({ path, text }) => ({ path, size: text.length, key: keyOf(text) })));
