import type { Pile, StoreView, ToldChange } from '#core/contents';
import type { ChangeDetails } from '~/queries';
import { bytes, counted } from '~/parts/format';

const STATES: Record<ToldChange['state'], string> = {
  planned: 'not begun',
  unfinished: 'unfinished',
  made: 'in effect',
  'taken-back': 'taken back',
  'let-go': 'in effect, for good',
  undone: 'taken back, for good',
  seen: 'not made by Regressum',
};

export const stateWords = ({ state }: ToldChange): string => STATES[state];

/** What a change did, as one line. */
export function didWords({ what, counts }: ToldChange): string {
  const { written, replaced, added, removed, moved, flagged, swapped } = counts;
  const parts =
    what === 'outside'
      ? [counted(replaced, 'file') + ' changed', added && `${added} added`, removed && `${removed} removed`]
      : [
          swapped
            ? `${counted(written, 'file')} written, the folder swapped`
            : replaced && `${counted(replaced, 'file')} replaced`,
          !swapped && added && `${counted(added, 'file')} added`,
          removed && `${counted(removed, 'file')} set aside`,
          moved && `${counted(moved, 'file')} moved`,
        ];
  const words = parts.filter(Boolean).join(', ');
  if (words !== '') return words;
  return flagged === undefined ? 'read-only flags' : counted(flagged, 'read-only flag');
}

/** What it takes to have a change back as it was before. */
export const keepsWords = ({ keeps, lost }: ToldChange): string =>
  keeps.files === 0
    ? 'keeps nothing'
    : `keeps ${bytes(keeps.bytes)}${lost > 0 ? `, ${counted(lost, 'file')} gone` : ''}`;

export const DID_WORDS: Record<ChangeDetails['files'][number]['did'], string> = {
  added: 'added',
  replaced: 'replaced',
  removed: 'set aside',
  moved: 'moved',
  locked: 'locked',
  unlocked: 'unlocked',
};

/** A line of the list of what lies on a drive. */
export interface DriveRow {
  readonly key: string;
  readonly title: string;
  readonly bytes: number;
  readonly files: number;
  readonly kind: Pile['purpose']['kind'];
  /** The reference that it stands for, where it can be opened. */
  readonly reference?: string;
}

const PILES: Record<Exclude<Pile['purpose']['kind'], 'change' | 'reference'>, string> = {
  game: 'The game’s folder',
  archives: 'Packed archives',
  beside: 'Beside the game’s folder',
  arriving: 'Partly fetched files',
  records: 'Regressum’s own records',
  unclaimed: 'Not used by anything',
};

const ORDER: readonly DriveRow['kind'][] = [
  ...(['game', 'change', 'reference', 'archives', 'beside', 'arriving', 'records', 'unclaimed'] as const),
];

/** What a reason is called for which contents are kept. */
export function referenceTitle({ reason }: StoreView['references'][number], install: string): string {
  const elsewhere = 'install' in reason && reason.install !== install ? ', in another browser' : '';
  switch (reason.kind) {
    case 'build':
      return `Build ${reason.build}, kept`;
    case 'covered':
      return `Game files that mods replace${elsewhere}`;
    case 'fetched':
      return `Fetched for ${reason.build}${elsewhere}`;
    case 'vanilla':
      return `Game files that ${reason.mod} is made from`;
    case 'release':
      return `${reason.mod} ${reason.release}, on the shelf`;
    case 'keepsake':
      return elsewhere === '' ? 'Keepsakes' : 'Keepsakes of other folders';
  }
}

/** The list of what lies on the drive: changes are summed up, and keepsakes, all else stands by itself. */
export function driveRows({ inventory, references, history, keepsakes }: StoreView, install: string): DriveRow[] {
  const kept = new Set(history.filter(({ keeps }) => keeps.files > 0).map(({ id }) => id)).size;
  const rows: DriveRow[] = [];
  const whole = new Set(keepsakes.map(({ id }) => id));
  /** One of this folder's without a list was cut off while it was made: it stands by itself, to be deleted. */
  const isSummed = ({ reason }: StoreView['references'][number]): boolean =>
    reason.kind === 'keepsake' && (reason.install !== install || whole.has(reason.keepsake));
  const sumUp = (row: DriveRow): void => {
    const at = rows.findIndex(({ key }) => key === row.key);
    if (at < 0) rows.push(row);
    else rows[at] = { ...row, files: row.files + rows[at]!.files, bytes: row.bytes + rows[at]!.bytes };
  };
  for (const { purpose, files, bytes: size } of inventory.piles) {
    const { kind } = purpose;
    if (kind === 'change') sumUp({ key: kind, kind, title: `Kept by ${counted(kept, 'change')}`, files, bytes: size });
    else if (kind === 'reference') {
      const reference = references.find(({ id }) => id === purpose.id);
      const title = reference ? referenceTitle(reference, install) : 'Kept contents';
      if (reference && isSummed(reference)) sumUp({ key: title, kind, title, files, bytes: size });
      else rows.push({ key: purpose.id, kind, title, files, bytes: size, reference: purpose.id });
    } else rows.push({ key: kind, kind, title: PILES[kind], files, bytes: size });
  }
  // Of kept builds that share all they have with others nothing lies there for themselves.
  for (const reference of references) {
    if (isSummed(reference) || rows.some(({ key }) => key === reference.id)) continue;
    const title = referenceTitle(reference, install);
    rows.push({ key: reference.id, kind: 'reference', title, files: 0, bytes: 0, reference: reference.id });
  }
  return rows.toSorted((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind));
}
