import { z } from 'zod';
import { FAILURE_CODES, type WireFailure } from './failure';

/** A failure as it crosses a wire, with its causes. */
export const WireFailureSchema: z.ZodType<WireFailure> = z.object({
  code: z.enum(FAILURE_CODES),
  facts: z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.undefined()])),
  cause: z.lazy(() => WireFailureSchema).optional(),
}) as z.ZodType<WireFailure>;
