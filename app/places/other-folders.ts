import { isFailure } from '#core/failure';
import { type Sha256 } from '#core/digest';
import { type Install, listInstalls } from '~/store';
import { type Source, sourceOf } from './source';

/** Another folder of the same game, and what a disk calls it beside which it lies. */
export interface OtherFolder {
  readonly name: string;
  readonly install: Install;
  readonly source: Source;
}

const MOST_OTHERS = 4;

/** A name of letters alone, the same whatever other folders there are. */
async function nameOf({ id }: Install, sha256: Sha256): Promise<string> {
  const digits = (await sha256(id)).slice(0, 12);
  return `other${[...digits].map((digit) => String.fromCharCode(97 + parseInt(digit, 16))).join('')}`;
}

/** The folders of the same game that can be read where an install's files are put down; a server reads only what it serves. */
export async function otherFolders(
  { id, game, place }: Pick<Install, 'id' | 'game' | 'place'>,
  sha256: Sha256,
): Promise<OtherFolder[]> {
  const others = (await listInstalls()).filter(
    (one) => one.id !== id && one.game === game && (place.kind !== 'served' || one.place.kind === 'served'),
  );
  const found: OtherFolder[] = [];
  for (const install of others) {
    if (found.length === MOST_OTHERS) break;
    try {
      found.push({ name: await nameOf(install, sha256), install, source: await sourceOf(install, install.tree) });
    } catch (error) {
      // One that cannot be read just now is no help.
      if (!isFailure(error)) throw error;
    }
  }
  return found;
}
