import type { ChecksumKind } from './kinds';
import type { ListedFile } from './parse';

const escaped = (name: string): string => name.replaceAll('\\', '\\\\').replaceAll('\n', '\\n').replaceAll('\r', '\\r');

const TAGS: Readonly<Record<ChecksumKind, string>> = {
  'sha-256': 'SHA256',
  'sha-1': 'SHA1',
  md5: 'MD5',
  'crc-32': 'CRC32',
};

/** How the lines are written: `hex  name`, or `SHA256 (name) = hex`, which tells the kind as well. */
export type ListForm = 'gnu' | 'bsd';

/**
 * Writes a list which the `-c` option of the command for its kind (`sha256sum`, `md5sum`, ...) accepts, in either form.
 * For safe paths {@link parseChecksumList} is its inverse.
 * @param remarks lines that the command passes over
 */
export function writeChecksumList(
  { kind, files }: { readonly kind: ChecksumKind; readonly files: readonly ListedFile[] },
  { form = 'gnu', remarks = [] }: { readonly form?: ListForm; readonly remarks?: readonly string[] } = {},
): string {
  const lines = files.map(({ path, digest }) => {
    const name = escaped(path);
    const mark = name === path ? '' : '\\';
    return form === 'gnu' ? `${mark}${digest}  ${name}\n` : `${mark}${TAGS[kind]} (${name}) = ${digest}\n`;
  });
  return [...remarks.map((remark) => `# ${escaped(remark)}\n`), ...lines].join('');
}
