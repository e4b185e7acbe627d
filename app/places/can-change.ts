import { isFailure } from '#core/failure';
import { servedStore } from '~/folders';
import { servedToken } from '~/remote';
import type { InstallPlace } from '~/store';

/** Whether the server may change a served folder. Where it cannot be reached, or not with this token, it may not now. */
async function serverMay({ root, folder }: { root: string; folder: string }): Promise<boolean> {
  const place = { kind: 'served', root, folder, token: servedToken() } as const;
  try {
    return (await servedStore(place).state()).write;
  } catch (error) {
    if (isFailure(error)) return false;
    throw error;
  }
}

type PickedFolders = Extract<InstallPlace, { kind: 'picked' }>;

const handlesOf = ({ handle, store }: PickedFolders): FileSystemDirectoryHandle[] =>
  store ? [handle, store] : [handle];

async function isAllowed(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  const states = await Promise.all(handlesOf(place).map((handle) => handle.queryPermission({ mode })));
  return states.every((state) => state === 'granted');
}

/** Whether the folder at a place can be changed just now. */
export async function canChange(place: InstallPlace): Promise<boolean> {
  switch (place.kind) {
    case 'browser-disk':
      return true;
    case 'served':
      return serverMay(place);
    case 'picked':
      return isAllowed(place, 'readwrite');
    case 'handed':
    case 'list':
      return false;
  }
}

/** Whether a folder that was picked can be read just now. */
export const canRead = (place: PickedFolders): Promise<boolean> => isAllowed(place, 'read');

/** Asks the person for a folder that was picked, and for the one that has its store. Browsers ask only on a click. */
export async function askFor(place: PickedFolders, mode: 'read' | 'readwrite'): Promise<boolean> {
  for (const handle of handlesOf(place)) if ((await handle.requestPermission({ mode })) !== 'granted') return false;
  return true;
}
