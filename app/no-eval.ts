import { z } from 'zod';

/*
 * Schemas are interpreted, not compiled: to try whether code may be made from text is against the page's policy already.
 * Imported for this alone, before anything is parsed.
 */
z.config({ jitless: true });
