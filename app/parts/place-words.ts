import type { InstallPlace } from '~/store';

/** Where a folder lies, in words. */
export function placeWords(place: InstallPlace): string {
  switch (place.kind) {
    case 'browser-disk':
      return 'browser disk';
    case 'picked':
      return 'chosen folder';
    case 'handed':
      return 'opened once';
    case 'served':
      return 'local server';
    case 'list':
      return 'checksum list';
  }
}
