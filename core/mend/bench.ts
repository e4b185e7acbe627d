import { z } from 'zod';
import { type BuildLabel, BuildLabelSchema, ModIdSchema } from '#core/builds';
import { releaseOrder } from '#core/mods';

/** When a mod that was taken out for a while is to be thought of again. */
export const UntilSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('day'), day: z.iso.date() }).readonly(),
  /** The folder is at this build, or at a newer one. */
  z.object({ kind: z.literal('build'), build: BuildLabelSchema }).readonly(),
  /** A newer build is out than `after`, which was when it was said; any, where none was. */
  z.object({ kind: z.literal('patch'), after: BuildLabelSchema.exactOptional() }).readonly(),
  /** The mod has a newer release than `after`, the newest one when it was said; any, where there was none. */
  z.object({ kind: z.literal('release'), after: z.string().exactOptional() }).readonly(),
  /** A release of it runs on the build that the folder is at. */
  z.object({ kind: z.literal('runs') }).readonly(),
  /** Those that were to run first do: it comes back with others, in groups. */
  z.object({ kind: z.literal('group') }).readonly(),
]);
export type Until = z.infer<typeof UntilSchema>;

/** A mod that is wanted, but out of the folder for a while. */
export const BenchedSchema = z
  .object({
    mod: ModIdSchema,
    /** The release that was in use, where one was. */
    release: z.string().exactOptional(),
    reason: z.string().max(400),
    /** Left out where a person has it back when they like. */
    until: UntilSchema.exactOptional(),
    /** Since when, in milliseconds since 1970. */
    at: z.number(),
  })
  .readonly();
export type Benched = z.infer<typeof BenchedSchema>;

/** How things stand for a mod on the bench. */
export interface BenchNow {
  /** Today, as `2027-03-01`, where the person is. */
  readonly day: string;
  /** From old to new. */
  readonly builds: readonly BuildLabel[];
  readonly onDisk: BuildLabel | undefined;
  /** The newest build that everybody can have. */
  readonly out: BuildLabel | undefined;
  /** The mod's releases from old to new. */
  readonly releases: readonly { readonly version: string }[];
  /** Whether a release of it runs on the build on disk, by the evidence that counts. */
  readonly runs: boolean;
}

/** Whether what was waited for has come. One that waits for its group, or for nothing, never comes up by itself. */
export function isDue({ until }: Benched, { day, builds, onDisk, out, releases, runs }: BenchNow): boolean {
  const place = (build: BuildLabel | undefined): number => (build === undefined ? -1 : builds.indexOf(build));
  switch (until?.kind) {
    case 'day':
      return day >= until.day;
    case 'build':
      return place(until.build) >= 0 && place(onDisk) >= place(until.build);
    case 'patch':
      return place(out) > place(until.after);
    case 'release':
      return releases.length - 1 > (until.after === undefined ? -1 : releaseOrder({ releases }, until.after));
    case 'runs':
      return runs;
    case 'group':
    case undefined:
      return false;
  }
}
