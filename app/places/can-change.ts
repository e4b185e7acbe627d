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

/** Whether the folder at a place can be changed just now. */
export async function canChange(place: InstallPlace): Promise<boolean> {
  switch (place.kind) {
    case 'browser-disk':
      return true;
    case 'served':
      return serverMay(place);
    case 'picked':
      return (await place.handle.queryPermission({ mode: 'readwrite' })) === 'granted';
    case 'handed':
    case 'list':
      return false;
  }
}
