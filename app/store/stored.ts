import type { z } from 'zod';
import { Failure } from '#core/failure';

/**
 * A record as it was stored.
 * @param what kind of record it is, in words
 * @throws Failure `store/damaged` where it is not what it should be
 */
export function stored<Schema extends z.ZodType>(schema: Schema, record: unknown, what: string): z.output<Schema> {
  const { success, data, error } = schema.safeParse(record);
  if (success) return data;
  const [issue] = error.issues;
  const field = issue!.path.join('.');
  throw new Failure('store/damaged', { what, field, problem: issue!.message });
}

/** As {@link stored}; undefined where there is none. */
export const storedIfThere = <Schema extends z.ZodType>(
  schema: Schema,
  record: unknown,
  what: string,
): z.output<Schema> | undefined => (record === undefined ? undefined : stored(schema, record, what));

/** Those records that are what they should be: one that is not keeps nobody from the others, and is left where it is. */
export function allStored<Schema extends z.ZodType>(
  schema: Schema,
  records: readonly unknown[],
  what: string,
): z.output<Schema>[] {
  return records.flatMap((record) => {
    try {
      return [stored(schema, record, what)];
    } catch (error) {
      console.warn(error);
      return [];
    }
  });
}

/** One that can be made anew from the folder: where it is not what it should be, it counts as none. */
export const soundOrNone = <Schema extends z.ZodType>(
  schema: Schema,
  record: unknown,
  what: string,
): z.output<Schema> | undefined => (record === undefined ? undefined : allStored(schema, [record], what)[0]);
