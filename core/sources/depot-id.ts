import { type DepotId, DepotIdSchema } from '#core/builds';

/** What the depot is called that a folder is recorded as whole, and a manifest that no index lists. */
export const WHOLE_BUILD = 'Whole build';

/**
 * An id for a depot that a person named: its letters and digits, the same for the same title.
 * @param taken ids that other titles have
 */
export function depotIdOf(title: string, taken: ReadonlySet<string>): DepotId {
  const plain = title
    .normalize('NFKD')
    .replaceAll(/\p{M}/gu, '')
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, '-')
    .replaceAll(/^-+|-+$/g, '')
    .slice(0, 50);
  const base = plain === '' ? 'depot' : plain;
  let id = base;
  for (let n = 2; taken.has(id); n++) id = `${base}-${n}`;
  return DepotIdSchema.parse(id);
}
