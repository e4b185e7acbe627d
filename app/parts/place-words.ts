import type { InstallPlace } from '~/store/records';

/** Where a folder lies, in words. */
export function placeWords(place: InstallPlace): string {
  switch (place.kind) {
    case 'browser-disk':
      return 'browser disk';
    case 'picked':
      return 'picked folder';
    case 'handed':
      return 'handed over';
    case 'served':
      return 'served folder';
    case 'list':
      return 'checksum list';
  }
}
