import { z } from 'zod';
import { HistoryEntrySchema } from '#core/changes';
import { KeepsakeHeadSchema } from '#core/keepsakes';
import { ReferenceSchema } from './references';
import type { StoreView } from './store';

/* The view of a store as it crosses from the server. */

const SumSchema = z.object({ files: z.number(), bytes: z.number() });

const PurposeSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.enum(['game', 'arriving', 'records', 'archives', 'beside', 'unclaimed']) }),
  z.object({ kind: z.literal('change'), set: z.string() }),
  z.object({ kind: z.literal('reference'), id: z.string() }),
]);

export const StoreViewSchema = z.object({
  history: z.array(
    HistoryEntrySchema.extend({
      ...{ keeps: SumSchema, lost: z.number(), elsewhere: z.boolean(), after: z.array(z.string()) },
      aside: z.object({ files: z.number(), others: z.number(), gone: z.number() }).nullable(),
    }),
  ),
  inventory: SumSchema.extend({ piles: z.array(SumSchema.extend({ purpose: PurposeSchema })) }),
  references: z.array(
    ReferenceSchema.pick({ id: true, at: true, reason: true, checkedAt: true }).extend({
      ...SumSchema.shape,
      missing: z.number(),
    }),
  ),
  keepsakes: z.array(KeepsakeHeadSchema),
  unclaimed: z.array(z.tuple([z.string(), z.number(), z.number()])),
  unreadable: z.array(z.string()),
}) satisfies z.ZodType<StoreView>;
