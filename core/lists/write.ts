import type { ListedFile } from './parse';

const escaped = (name: string): string => name.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('\r', '\\r');

/**
 * Writes a list in the GNU form, which the `-c` option of the command for its kind (`sha256sum`, `md5sum`, ...) accepts.
 * For safe paths {@link parseChecksumList} is its inverse.
 * @param remarks lines that the command passes over
 */
export function writeChecksumList(files: readonly ListedFile[], remarks: readonly string[] = []): string {
  const lines = files.map(({ path, digest }) => {
    const name = escaped(path);
    return `${name === path ? '' : '\\'}${digest}  ${name}\n`;
  });
  return [...remarks.map((remark) => `# ${escaped(remark)}\n`), ...lines].join('');
}
