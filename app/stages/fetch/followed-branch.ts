import { isFailure } from '#core/failure';
import { changesOf, recordBranch, recordOf } from '~/changes';
import { canChange } from '~/places';
import type { Install } from '~/store';

/** The branch that the storefront follows for a folder, as far as its record tells. */
export interface Followed {
  /** Undefined where no record is known that says so. */
  readonly branch: string | undefined;
  /** Whether the record has a place for the code of a branch. */
  readonly takesCode: boolean;
}

/** A record that cannot be read, or changed, from here tells nothing: then the steps are told to be done by hand. */
export async function followedBranch(install: Install): Promise<Followed> {
  const unknown = { branch: undefined, takesCode: false };
  const record = await recordOf(install);
  if (!record || !(await canChange(install.place))) return unknown;
  try {
    const branch = await recordBranch(changesOf(install).disk, record);
    return { branch, takesCode: record.rule.branchCode !== undefined };
  } catch (error) {
    if (isFailure(error)) return unknown;
    throw error;
  }
}
