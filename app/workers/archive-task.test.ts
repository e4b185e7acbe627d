import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { arrivals, contentName, contentPath } from '#core/contents';
import { PIECE_SIZE } from '#core/digest';
import { memoryFolder } from '#core/folders';
import { streamSha256 } from '~/remote/stream-sha256';
import { digest, sha256 } from '../../core/testing/digest';
import { keyOfBytes } from '../../core/testing/memory-disk';
import { rar, sevenZip } from '../../core/testing/packed-archives';
import { digestInArchive, lookIntoArchive, unpackArchive } from './archive-task';

const FILES: readonly (readonly [string, Buffer])[] = [
  ['Mist/mist.graft', Buffer.from('mist one')],
  ['Mist/deep/large.bin', Buffer.from(Uint8Array.from({ length: PIECE_SIZE + 3 }, (_, i) => (i * 7 + (i >> 9)) & 255))],
  ['Mist/empty', Buffer.alloc(0)],
  ['Mist/mod.json', Buffer.from('{"id":"mist"}')],
];

let work: string;
beforeEach(() => {
  work = mkdtempSync(join(tmpdir(), 'regressum-archives-'));
  for (const [path, bytes] of FILES) {
    mkdirSync(join(work, 'in', dirname(path)), { recursive: true });
    writeFileSync(join(work, 'in', path), bytes);
  }
  // What unpacks in memory is fetched as any part of the application is.
  vi.stubGlobal('fetch', async (url: string) => new Response(readFileSync(join(process.cwd(), url))));
});
afterEach(() => {
  vi.unstubAllGlobals();
  rmSync(work, { recursive: true });
});

const run = (command: string, ...words: string[]): void =>
  void execFileSync(command, words, { cwd: join(work, 'in'), stdio: ['ignore', 'ignore', 'inherit'] });
const fileOf = (name: string): File => new File([readFileSync(join(work, name))], name);

/** Archives of the files, by what they are. */
const MADE: Readonly<Record<string, () => File>> = {
  ZIP: () => (run('zip', '-qr', '../a.zip', '.'), fileOf('a.zip')),
  tar: () => (run('tar', '-cf', '../a.tar', '.'), fileOf('a.tar')),
  'tar.gz': () => (run('tar', '-czf', '../a.tgz', '.'), fileOf('a.tgz')),
  'tar.xz': () => (run('tar', '-cJf', '../a.txz', '.'), fileOf('a.txz')),
  'tar with long names': () => {
    const long = `${'n'.repeat(120)}/${'m'.repeat(120)}`;
    mkdirSync(join(work, 'in', dirname(long)));
    writeFileSync(join(work, 'in', long), 'long');
    run('tar', '-cf', '../a.tar', '.');
    return fileOf('a.tar');
  },
  '7z': () => new File([sevenZip(FILES.filter(([, bytes]) => bytes.length > 0 && bytes.length < 9999))], 'a.7z'),
  RAR: () => new File([rar(FILES)], 'a.rar'),
};

const ports = (folder = memoryFolder()) => ({
  readerOf: () => folder,
  ...{ sha256, newHash: streamSha256, progress: () => undefined },
  signal: new AbortController().signal,
});
const look = (from: File) => lookIntoArchive({ do: 'look-into-archive', from }, ports());

describe('an archive', () => {
  it.each(Object.entries(MADE))(
    'as %s is told by its files, and they come into the store as they are',
    async (kind, make) => {
      const from = make();
      const { files, texts } = await look(from);
      const known = new Map(files.map((file) => [file.path, file]));
      const own = FILES.filter(([path]) => kind !== '7z' || known.has(path));
      expect(known.size).toBe(kind === '7z' ? 2 : kind.endsWith('names') ? 5 : 4);
      for (const [path, bytes] of own) {
        expect(known.get(path)).toMatchObject({ key: keyOfBytes(bytes) });
      }
      const [large, bytes] = FILES[1]!;
      if (known.has(large)) {
        const { digests } = await digestInArchive({ do: 'digest-in-archive', from, paths: [large] }, ports());
        expect(digests).toEqual([[large, digest(bytes)]]);
      }
      expect(texts).toEqual([['Mist/mod.json', '{"id":"mist"}']]);

      const folder = memoryFolder();
      const wanted = files
        .filter(({ path }) => path !== 'Mist/empty')
        .map(({ path, key, modified }) => ({ path, key, modified }));
      const to = { kind: 'browser-disk', disk: 'd' } as const;
      await unpackArchive(
        { do: 'unpack', isBag: false, from, files: wanted, to },
        { ...ports(), to: arrivals(folder) },
      );
      for (const [path, bytes] of own.filter(([name]) => name !== 'Mist/empty')) {
        const content = await folder.read(contentPath(await contentName(known.get(path)!.key, sha256)));
        // Said by Buffer: a test library compares byte by byte.
        expect(bytes.equals(content), path).toBe(true);
      }
      expect(await folder.list()).toHaveLength(wanted.length);
    },
  );

  const refused: Readonly<Record<string, () => File>> = {
    'archive/unknown-kind': () => new File(['words'], 'a.zip'),
    'archive/in-parts': () => new File([sevenZip(FILES)], 'a.7z.001'),
    'archive/encrypted': () => (run('zip', '-qrP', 'secret', '../a.zip', '.'), fileOf('a.zip')),
    'archive/not-a-file': () => {
      symlinkSync('/etc/passwd', join(work, 'in/link'));
      run('tar', '-cf', '../a.tar', '.');
      return fileOf('a.tar');
    },
    'path/climbs': () => (
      run('tar', '-cPf', '../a.tar', '--transform', 's,^Mist,../../Mist,', 'Mist/mist.graft'),
      fileOf('a.tar')
    ),
    'path/collides': () =>
      new File(
        [
          rar([
            ['A/b', Buffer.from('1')],
            ['a/B', Buffer.from('2')],
          ]),
        ],
        'a.rar',
      ),
    'path/absolute': () =>
      new File(
        [
          sevenZip([
            ['C:/x', Buffer.from('1')],
            ['y', Buffer.from('2')],
          ]),
        ],
        'a.7z',
      ),
    'archive/too-large': () => {
      execFileSync('sh', ['-c', 'truncate -s 1500000000 zeros && tar -cf - zeros | head -c 2000000 | gzip > a.tgz'], {
        ...{ cwd: work, stdio: 'ignore' },
      });
      return fileOf('a.tgz');
    },
  };
  it.each(Object.entries(refused))('is refused by name: %s', async (code, make) => {
    const from = make();
    await expect(look(from)).rejects.toMatchObject({ code, facts: { file: from.name } });
  });

  it.each(['ZIP', 'tar.gz', '7z', 'RAR'])('that is cut off, or has other bytes, is damaged: %s', async (kind) => {
    const whole = MADE[kind]!();
    const bytes = new Uint8Array(await whole.arrayBuffer());
    const cut = new File([bytes.slice(0, bytes.length - 40)], whole.name);
    await expect(look(cut)).rejects.toMatchObject({ code: 'archive/damaged' });
  });

  it.each(['ZIP', 'tar.gz', '7z'])('of which a byte is another one is damaged: %s', async (kind) => {
    const whole = MADE[kind]!();
    const bytes = new Uint8Array(await whole.arrayBuffer());
    const at = Buffer.from(bytes).indexOf('mist one');
    bytes[at < 0 ? bytes.length >> 1 : at]! ^= 1;
    await expect(look(new File([bytes], whole.name))).rejects.toMatchObject({ code: 'archive/damaged' });
  });

  it('of which a file has changed since it was looked into gives nothing for it', async () => {
    const { files } = await look(MADE['tar']!());
    writeFileSync(join(work, 'in/Mist/mist.graft'), 'mist two');
    const other = MADE['tar']!();
    const folder = memoryFolder();
    const task = { do: 'unpack', isBag: false, from: other, files, to: { kind: 'browser-disk', disk: 'd' } } as const;
    await expect(unpackArchive(task, { ...ports(), to: arrivals(folder) })).rejects.toMatchObject({
      code: 'archive/damaged',
      facts: { path: 'Mist/mist.graft' },
    });
  });
});

describe('a folder', () => {
  const FOLDER = { place: { kind: 'browser-disk', disk: 'd' }, root: 'mods/101', name: 'mods/101' } as const;
  const lookAt = (folder: ReturnType<typeof memoryFolder>) =>
    lookIntoArchive({ do: 'look-into-archive', from: FOLDER }, ports(folder));

  it('is told by its files as an archive is, and what lies beside it is not of it', async () => {
    const folder = memoryFolder();
    for (const [path, bytes] of FILES) await folder.writeWhole(`mods/101/${path}`, new Uint8Array(bytes));
    await folder.writeWhole('mods/102/other', new Uint8Array(3));
    const { files, texts } = await lookAt(folder);
    expect(new Map(files.map(({ path, key }) => [path, key]))).toEqual(
      new Map(FILES.map(([path, bytes]) => [path, keyOfBytes(bytes)])),
    );
    expect(texts).toEqual([['Mist/mod.json', '{"id":"mist"}']]);
  });

  it('is refused by name where two of its files are one on another disk, or it changes while it is read', async () => {
    const folder = memoryFolder();
    for (const name of ['a/b', 'A/B']) await folder.writeWhole(`mods/101/${name}`, new Uint8Array(3));
    await expect(lookAt(folder)).rejects.toMatchObject({ code: 'path/collides', facts: { file: 'mods/101' } });
    const shrinking = memoryFolder();
    await shrinking.writeWhole('mods/101/a', new Uint8Array(3));
    const open: typeof shrinking.open = async (path) => ({
      ...(await shrinking.open(path)),
      read: async () => new Uint8Array(0),
    });
    await expect(lookAt({ ...shrinking, open })).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
  });
});
