import type { BuildLabel } from '#core/builds';
import type { ArchivePart, DraftRelease, Why } from '#core/archives';
import { SafePathSchema } from '#core/paths';
import type { DraftPlaces } from '~/queries';

/** A part as a person has settled it so far. */
export interface PartChoice extends Pick<ArchivePart, 'from' | 'to' | 'paths' | 'why'> {
  readonly isTaken: boolean;
}

/** A release that is to be made of an archive, as far as a person has settled it. */
export interface DraftChoice extends Pick<DraftRelease, 'archive' | 'name' | 'version' | 'mod'> {
  readonly parts: readonly PartChoice[];
  /** Builds that it is made for, as the person says. */
  readonly builds: readonly BuildLabel[];
  /** Where it is from, as the person says: a post, a message; the archive's name where they say nothing. */
  readonly source: string;
}

/**
 * What is sure is taken, and nothing else before a person says so.
 * @param build that the person is at: mods are mostly brought for it
 */
export const firstChoice = (
  { archive, name, version, mod, parts }: DraftRelease,
  build: BuildLabel | undefined,
): DraftChoice => ({
  ...{ archive, name, version, mod, builds: build === undefined ? [] : [build], source: '' },
  parts: parts.map(({ from, to, paths, why, isSure }) => ({ from, to, paths, why, isTaken: isSure })),
});

/** What keeps a release from being put on the shelf, as a person is told; undefined where nothing does. */
export function openQuestion(
  { name, version, parts }: DraftChoice,
  places: DraftPlaces | undefined,
): string | undefined {
  const taken = parts.filter(({ isTaken }) => isTaken);
  if (taken.length === 0) return undefined;
  if (name.trim() === '') return 'Give the mod a name.';
  if (version.trim() === '') return `Give ${name} a release number.`;
  if (taken.some(({ to }) => to === undefined)) return `Say where the files of ${name} go.`;
  const unsafe = taken.find(({ to }) => to !== '' && !SafePathSchema.safeParse(to).success);
  if (unsafe) return `"${unsafe.to}" is no folder below the game’s.`;
  if (!places) return 'Working out where the files go…';
  const [clash] = places.clashes;
  if (clash !== undefined) return `Several parts of ${name} have a file at ${clash}: take one of them.`;
  return undefined;
}

/** How the place of a part is known. */
export const WHY_WORDS: Readonly<Record<Why, string>> = {
  'game-file': 'Files of the game itself have these paths.',
  'named-folder': 'It has the folder of mods, or another one of the game’s rules, in it.',
  mark: 'It has a file that every mod of this game has.',
  'same-folder': 'Only a folder of the game has the same name: check where it goes.',
  nothing: 'Nothing tells where it goes.',
};

/** The folders that a part may begin at: those that all of its files lie in, the outermost first. */
export function possibleStarts(paths: readonly string[]): string[] {
  const [first = '', ...others] = paths.map((path) => path.split('/').slice(0, -1));
  const common = [...first];
  for (const other of others) while (common.some((part, i) => other[i] !== part)) common.pop();
  return ['', ...common.map((_, i) => common.slice(0, i + 1).join('/'))];
}
