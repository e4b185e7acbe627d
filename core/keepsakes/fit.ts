import { type GameRules, type OwnKind, ownRule } from '#core/builds';
import { IN_GAME, type Keepsake, type OwnFile } from './keepsake';

/** The folder of a bag that has files from outside the game's folder, each place in a folder of its name. */
const OUTSIDE = 'elsewhere';

/** What a kept file is called in a bag's payload. */
export const pathInBag = ({ place, path }: Pick<OwnFile, 'place' | 'path'>): string =>
  place === IN_GAME ? path : `${OUTSIDE}/${place}/${path}`;

/** Where a file of an archive belongs. */
export interface Fitted extends Pick<OwnFile, 'place' | 'path' | 'kind'> {
  /** What it is called in the archive. */
  readonly as: string;
}

export interface BagFit {
  readonly fitted: readonly Fitted[];
  /** Files of which nothing says where they belong. */
  readonly left: readonly string[];
}

/** Folders around the files that an archive may have besides. */
const MOST_AROUND = 4;

const without = (path: string, folders: number): string => path.split('/').slice(folders).join('/');

/**
 * Says where the files of an archive belong: as the keepsake in it has them, or by the game's rules, be it that the archive
 * has folders around them. Of several depths the one counts at which most files fit.
 * @param kept the keepsake that the archive was packed of
 * @param outside places outside the game's folder that the install has
 */
export function fitBag(
  paths: readonly string[],
  rules: Pick<GameRules, 'own'>,
  { kept, outside }: { readonly kept: Pick<Keepsake, 'files'> | undefined; readonly outside: ReadonlySet<string> },
): BagFit {
  const known = new Map((kept?.files ?? []).map((file) => [pathInBag(file), file]));
  const kindOf = (path: string): OwnKind | undefined => ownRule(rules, path)?.kind;
  const fits = (depth: number) =>
    paths.flatMap((as): Fitted[] => {
      const file = known.get(as);
      if (file && (file.place === IN_GAME || outside.has(file.place)))
        return [{ as, place: file.place, path: file.path, kind: file.kind }];
      const path = without(as, depth);
      const kind = path === '' ? undefined : kindOf(path);
      return kind ? [{ as, place: IN_GAME, path, kind }] : [];
    });
  let fitted = fits(0);
  for (let depth = 1; depth <= MOST_AROUND; depth++) {
    const deeper = fits(depth);
    if (deeper.length > fitted.length) fitted = deeper;
  }
  const names = new Set(fitted.map(({ as }) => as));
  return { fitted, left: paths.filter((as) => !names.has(as)) };
}

/** Puts files below a folder of a place, as a person says, without the folders that all of them have around them. */
export function placeAll(
  left: readonly string[],
  into: Pick<OwnFile, 'place' | 'kind'> & { readonly folder: string },
): Fitted[] {
  const around = Math.min(...left.map((path) => path.split('/').length - 1));
  let shared = 0;
  while (shared < around && left.every((path) => path.split('/')[shared] === left[0]!.split('/')[shared])) shared += 1;
  const { place, kind, folder } = into;
  return left.map((as) => ({ as, place, kind, path: [folder, without(as, shared)].filter(Boolean).join('/') }));
}
