import { z } from 'zod';

/** A pattern (RE2) as it is written; whether it is one is told by `#core/patterns`, which brings the engine along. */
export const PatternSchema = z.string().min(1).max(500);
