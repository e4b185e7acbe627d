import { z } from 'zod';

const MAX_HREF = 2048;
/** An address of its own (`https:`, `//host`), or signs that browsers read in another way than they are written. */

const NOT_RELATIVE = /^[a-z][a-z0-9+.-]*:|^[\\/]{2}|[\\\s\u0000-\u001f\u007f-\u009f]/i;

/**
 * Where something of a source is to be had: a reference relative to the source's own address (RFC 3986, section 4.2), so that
 * no index can send anybody to another host.
 */
export const HrefSchema = z
  .string()
  .max(MAX_HREF)
  .refine((href) => !NOT_RELATIVE.test(href), 'is not an address within its source');
