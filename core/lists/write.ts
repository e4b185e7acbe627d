import type { ListedFile } from './parse';

const escaped = (name: string): string => name.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('\r', '\\r');

/**
 * Writes a list in the GNU form, which the `-c` option of the command for its kind (`sha256sum`, `md5sum`, ...) accepts.
 * For safe paths {@link parseChecksumList} is its inverse.
 */
export function writeChecksumList(files: readonly ListedFile[]): string {
  return files
    .map(({ path, digest }) => {
      const name = escaped(path);
      return `${name === path ? '' : '\\'}${digest}  ${name}\n`;
    })
    .join('');
}
