import { OWN_KINDS } from '#core/builds';
import { IN_GAME, type KeptRow, type OwnFile, ownName } from '#core/keepsakes';
import { KIND_NAMES } from '~/parts/own-words';
import { useAddress } from '~/parts/use-address';
import type { KeepsakeView } from '~/queries';

/** A file of a keepsake, or one that was made since. */
export type Row = (KeptRow & { readonly since?: never }) | (OwnFile & { readonly since: true });

export const doesOf = (row: Row): KeptRow['does'] | 'since' => (row.since ? 'since' : row.does);

/** What differs is what one came for. */
const RANK = { replaces: 0, returns: 1, unknown: 2, since: 3, nothing: 4 } as const;

const MOD = 'mod ';

/** Files that are looked at together: those of a kind, or what is set of one mod. */
export interface FilesOf {
  readonly value: string;
  readonly label: string;
}

export interface ShownFiles {
  readonly all: readonly Row[];
  /** Those that fit what was asked for, which differ first. */
  readonly rows: readonly Row[];
  /** Whether some are left out. */
  readonly isPart: boolean;
  readonly groups: readonly FilesOf[];
  readonly group: string | null;
  readonly nameOf: (row: OwnFile) => string;
  readonly ownerOf: (row: OwnFile) => string;
}

/** The files of a keepsake that the address asks for, by a part of their names, by kind, or by the mod that they are of. */
export function useShownFiles(view: KeepsakeView | undefined): ShownFiles {
  const address = useAddress();
  const filter = (address.get('files') ?? '').toLowerCase();
  const group = address.get('of') ?? null;
  const all: Row[] = [...(view?.rows ?? []), ...(view?.since ?? []).map((file) => ({ ...file, since: true as const }))];
  const titles = new Map(view?.places.map(({ name, title }) => [name, title]));
  const nameOf = (row: OwnFile): string =>
    row.place === IN_GAME ? row.path : `${titles.get(row.place) ?? 'a folder no longer pointed at'}: ${row.path}`;
  const modOf = (row: OwnFile): string | undefined => view?.modOf.get(ownName(row));
  const ownerOf = (row: OwnFile): string => modOf(row) ?? KIND_NAMES[row.kind];
  const isOf = (row: OwnFile): boolean =>
    group === null || (group.startsWith(MOD) ? modOf(row) === group.slice(MOD.length) : row.kind === group);
  const rows = all
    .filter((row) => isOf(row) && `${nameOf(row)} ${ownerOf(row)}`.toLowerCase().includes(filter))
    .toSorted((a, b) => RANK[doesOf(a)] - RANK[doesOf(b)]);
  const kinds = OWN_KINDS.filter((kind) => all.some((row) => row.kind === kind));
  const mods = [...new Set(all.flatMap((row) => modOf(row) ?? []))].toSorted((a, b) => a.localeCompare(b));
  return {
    ...{ all, rows, group, nameOf, ownerOf },
    isPart: rows.length < all.length,
    groups: [
      ...kinds.map((kind) => ({ value: kind, label: KIND_NAMES[kind] })),
      ...mods.map((name) => ({ value: MOD + name, label: `Settings of ${name}` })),
    ],
  };
}
