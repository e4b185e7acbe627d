import { isFailure } from '#core/failure';
import { servedStore } from '~/folders';
import { servedToken } from '~/remote';
import type { InstallPlace } from '~/store';

/**
 * Whether a folder can be changed just now: `may`; `look-only`, as long as its place stays what it is; `not-asked`, the
 * person has not yet said so to the browser; `other-start`, the server was started again and this page does not know its
 * token yet; `unreachable`, the server does not answer.
 */
export type Changing = 'may' | 'look-only' | 'not-asked' | 'other-start' | 'unreachable';

async function serverMay({ root, folder }: { root: string; folder: string }): Promise<Changing> {
  const place = { kind: 'served', root, folder, token: servedToken() } as const;
  try {
    return (await servedStore(place).state()).write ? 'may' : 'look-only';
  } catch (error) {
    if (!isFailure(error)) throw error;
    if (isFailure(error, 'served/refused') && error.facts.what === 'token') return 'other-start';
    return error.code === 'service/unreachable' ? 'unreachable' : 'look-only';
  }
}

type PickedFolders = Extract<InstallPlace, { kind: 'picked' }>;

const handlesOf = ({ handle, store }: PickedFolders): FileSystemDirectoryHandle[] =>
  store ? [handle, store] : [handle];

async function isAllowed(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  const states = await Promise.all(handlesOf(place).map((handle) => handle.queryPermission({ mode })));
  return states.every((state) => state === 'granted');
}

/** Whether the folder at a place can be changed just now, and if not, what stands in the way. */
export async function changingOf(place: InstallPlace): Promise<Changing> {
  switch (place.kind) {
    case 'browser-disk':
      return 'may';
    case 'served':
      return serverMay(place);
    case 'picked':
      return (await isAllowed(place, 'readwrite')) ? 'may' : 'not-asked';
    case 'handed':
    case 'list':
      return 'look-only';
  }
}

export const canChange = async (place: InstallPlace): Promise<boolean> => (await changingOf(place)) === 'may';

/** Whether a folder that was picked can be read just now. */
export const canRead = (place: PickedFolders): Promise<boolean> => isAllowed(place, 'read');

/** Asks the person for a folder that was picked, and for the one that has its store. Browsers ask only on a click. */
export async function askFor(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  for (const handle of handlesOf(place)) if ((await handle.requestPermission({ mode })) !== 'granted') return false;
  return true;
}
