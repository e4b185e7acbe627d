import { expect, it } from 'vitest';
import { arrivals, contentName, contentPath } from '#core/contents';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { memoryFolder } from '#core/folders';
import { platformSha256 } from '~/remote';
import { takeOver } from './take-over-task';

it('takes over what is as it is said to be, and nothing else', async () => {
  const [from, to] = [memoryFolder(), memoryFolder()];
  const ports = { sha256: platformSha256, signal: new AbortController().signal, progress: () => undefined };
  const take = (key: ReturnType<typeof contentKey>) =>
    takeOver(
      { do: 'take-over', contents: [[key, 'one']], from: place, to: place },
      { ...ports, from, to: arrivals(to) },
    );
  const place = { kind: 'browser-disk', disk: 'd' } as const;
  for (const size of [0, 5, PIECE_SIZE + 3]) {
    const bytes = new Uint8Array(size).fill(7);
    await from.writeWhole('one', bytes);
    const pieces = [bytes.subarray(0, PIECE_SIZE), ...(size > PIECE_SIZE ? [bytes.subarray(PIECE_SIZE)] : [])];
    const key = contentKey(size, await Promise.all(pieces.map((piece) => platformSha256(piece))));
    await take(key);
    expect(Buffer.compare(await to.read(contentPath(await contentName(key, platformSha256))), bytes)).toBe(0);
    await from.writeWhole('one', new Uint8Array(size + 1));
    await expect(take(key)).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
    if (size === 0) continue;
    await from.writeWhole('one', new Uint8Array(size));
    await expect(take(key)).rejects.toMatchObject({ code: 'folder/changed-meanwhile' });
  }
});
