import { type BuildLabel, headBuild, type ModId } from '#core/builds';
import { assess, type AssessInput, type EvidenceLevel, isAtLeast, isDue } from '#core/mend';
import { modById } from '#core/mods';
import type { Evidence } from './evidence';
import type { InstallContext } from './install-context';
import type { MendView } from './views';

/** Today where the person is, as `2027-03-01`. */
function today(): string {
  const now = new Date();
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}

/** Whether a release of the mod runs at the build, by the evidence that counts. */
export function runsAt(input: AssessInput, mod: ModId, level: EvidenceLevel): boolean {
  return (modById(input.catalogue, mod)?.releases ?? []).some((release) =>
    isAtLeast(assess(release, input).verdict, level),
  );
}

/** The mods on the bench of a folder, and whether what they wait for has come. */
export function benchOf(
  here: InstallContext,
  { inputAt, level }: Evidence,
  onDisk: BuildLabel | undefined,
): MendView['bench'] {
  const { catalogue, index, install } = here;
  const builds = index.builds.map(({ label }) => label);
  const [input, out] = [onDisk && inputAt(onDisk), headBuild(index)];
  return (install.bench ?? []).map((benched) => {
    const runs = input !== undefined && runsAt(input, benched.mod, level);
    const releases = modById(catalogue, benched.mod)?.releases ?? [];
    return { ...benched, isDue: isDue(benched, { day: today(), builds, onDisk, out, releases, runs }) };
  });
}

/** Names of the mods that are due back from the bench. */
export const dueNames = (here: InstallContext, evidence: Evidence, onDisk: BuildLabel | undefined): string[] =>
  benchOf(here, evidence, onDisk).flatMap(({ mod, isDue: due }) =>
    due ? [modById(here.catalogue, mod)?.name ?? mod] : [],
  );
