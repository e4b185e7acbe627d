import { z } from 'zod';
import type { Depot, DepotIndex } from './schema';

/* What to get by other means, as a text for whoever gets it: a line a depot, in the form that a game's rules give. */

const FIELDS = ['depot', 'title', 'build', 'manifest', 'digest', 'files', 'bytes'] as const;
type Field = (typeof FIELDS)[number];

const FIELD = /\{([^{}]*)\}/g;

/** A line of such a list, with the fields in braces. */
export const FetchLineSchema = z
  .string()
  .min(1)
  .max(300)
  .regex(/^[^\p{Cc}]*$/u, 'contains control characters')
  .superRefine((form, context) => {
    const fields = [...form.matchAll(FIELD)].map(([, name]) => name!);
    const unknown = fields.find((name) => !FIELDS.includes(name as Field));
    const problem =
      unknown !== undefined
        ? `has no field {${unknown}}: there are ${FIELDS.map((name) => `{${name}}`).join(', ')}`
        : fields.some((name) => name === 'depot' || name === 'manifest' || name === 'digest')
          ? undefined
          : 'names neither {depot} nor {manifest}';
    if (problem) context.addIssue({ code: 'custom', message: problem });
  })
  .describe(
    'A line of the fetch list, with {depot}, {title}, {build}, {manifest} (what the source calls it, else its digest), {digest}, {files} and {bytes} in it',
  );

const TABS = '{depot}\t{build}\t{manifest}\t{files}\t{bytes}';

/**
 * The line of a depot at a build.
 * @param form of the game's rules; fields with tabs between them where there is none
 */
export function fetchLine(
  form: string | undefined,
  { id, title }: Pick<Depot, 'id' | 'title'>,
  entry: DepotIndex['manifests'][number],
): string {
  const values: Record<Field, string | number> = {
    ...{ depot: id, title, build: entry.build },
    ...{ manifest: entry.id ?? entry.sha256, digest: entry.sha256, files: entry.files, bytes: entry.bytes },
  };
  return (form ?? TABS).replaceAll(FIELD, (_, name: Field) => String(values[name]));
}
