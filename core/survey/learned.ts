import { z } from 'zod';
import type { ContentKey } from '#core/digest';
import { keyPieces, keySize } from '#core/digest';
import type { ExpectedFile, FoundFile } from './compare';
import { listedKey } from './listed';

/**
 * A build as a person recorded it, under a label of their own. Several records may have one label: a build that is
 * known by a log may come in as a folder later. They stand beside what the depot service says and outlive its changes.
 */
export const LearnedBuildSchema = z
  .object({
    id: z.string(),
    label: z.string(),
    /** Milliseconds since 1970. */
    at: z.number(),
    /** Where the record comes from. */
    from: z.object({ kind: z.enum(['folder', 'log']), name: z.string() }).readonly(),
    paths: z.array(z.string()).readonly(),
    /** Contents of the files; of one that is known by its checksum alone, the key that {@link listedKey} gives it. */
    keys: z.array(z.string().transform((key) => key as ContentKey)).readonly(),
  })
  .refine(({ paths, keys }) => paths.length === keys.length, 'has columns of unequal length')
  .readonly();
export type LearnedBuild = z.infer<typeof LearnedBuildSchema>;
export type LearnedFrom = LearnedBuild['from'];

/** Answers the record that has a content at a path; of several the latest. */
export type LearnedContents = (path: string, key: ContentKey) => LearnedBuild | undefined;

/** All keys that a content of this key may stand under in a record. */
function namesOf(key: ContentKey, sha256Of: (key: ContentKey) => string | undefined): ContentKey[] {
  const pieces = keyPieces(key);
  const sha256 = pieces.length === 1 ? pieces[0] : sha256Of(key);
  return sha256 === undefined ? [key] : [key, listedKey(sha256)];
}

/** @param sha256Of SHA-256 of the whole of a content of several pieces, where it is known */
export function learnedContents(
  records: readonly LearnedBuild[],
  sha256Of: (key: ContentKey) => string | undefined,
): LearnedContents {
  const byName = new Map<string, LearnedBuild>();
  for (const record of records.toSorted((a, b) => a.at - b.at)) {
    record.paths.forEach((path, i) => byName.set(`${path}\0${record.keys[i]}`, record));
  }
  return (path, key) =>
    namesOf(key, sha256Of)
      .map((name) => byName.get(`${path}\0${name}`))
      .find((record) => record !== undefined);
}

export interface LearnedFit {
  readonly record: LearnedBuild;
  /** Files of the record that lie in the folder with its bytes. */
  readonly found: number;
  readonly total: number;
}

/** How far each record fits a folder, the best first; of equal ones the later record. Those that fit nowhere are left out. */
export function learnedFits(
  records: readonly LearnedBuild[],
  found: readonly FoundFile[],
  sha256Of: (key: ContentKey) => string | undefined,
): LearnedFit[] {
  const names = new Map(found.map(({ path, key }) => [path, namesOf(key, sha256Of)]));
  return records
    .map((record) => ({
      record,
      found: record.paths.filter((path, i) => names.get(path)?.includes(record.keys[i]!)).length,
      total: record.paths.length,
    }))
    .filter((fit) => fit.found > 0)
    .sort((a, b) => b.found * a.total - a.found * b.total || b.total - a.total || b.record.at - a.record.at);
}

/** The files of a record, for comparing with a folder. */
export function learnedTree({ paths, keys }: LearnedBuild): ExpectedFile[] {
  return paths.map((path, i) => ({ path, key: keys[i]!, size: keySize(keys[i]!) || 0 }));
}
