import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { digest, sha256 } from '../testing/digest';
import { bagChecksums, bagFiles, bagName } from './index';

const info = {
  what: 'keepsake' as const,
  ...{ date: '2026-11-24T23:30:00.000Z', game: 'Ferry\nwake', folder: 'Games/Ferrywake' },
  ...{ build: '2.9.4', mods: 38 },
};

describe('a bag', () => {
  it('lists its payload so that it reads back, whatever the names', async () => {
    const pathArbitrary = fc.stringMatching(/^[a-z%\n\r äß/]{1,12}$/);
    await fc.assert(
      fc.asyncProperty(fc.uniqueArray(pathArbitrary), async (paths) => {
        const payload = paths.map((path) => ({ path, size: 3, sha256: digest(path) }));
        const files = await bagFiles(info, payload, sha256);
        const read = bagChecksums(files.get('manifest-sha256.txt')!);
        expect([...read]).toEqual(payload.map(({ path }) => [`data/${path}`, digest(path)]));
      }),
    );
  });

  it('says what it holds, one thing a line, and has the checksums of what says so', async () => {
    const files = await bagFiles(info, [{ path: 'a', size: 5, sha256: digest('a') }], sha256);
    const lines = files.get('bag-info.txt')!.split('\n');
    expect(lines).toContain('Payload-Oxum: 5.1');
    expect(lines).toContain('External-Description: Saves, settings and own content of Ferry wake');
    expect(lines).toEqual(expect.arrayContaining(['Regressum-Build: 2.9.4', 'Regressum-Mods: 38']));
    const bare = await bagFiles({ ...info, build: undefined, mods: undefined }, [], sha256);
    expect(bare.get('bag-info.txt')).not.toMatch(/undefined|Regressum-(Build|Mods)/);
    const tags = bagChecksums(files.get('tagmanifest-sha256.txt')!);
    expect([...tags.keys()]).toEqual(['bagit.txt', 'bag-info.txt', 'manifest-sha256.txt']);
    for (const [path, hex] of tags) expect(hex).toBe(digest(files.get(path)!));
  });

  it('is named so that a later one stands after it', () => {
    expect(bagName('ferrywake', info.date)).toBe('ferrywake-keepsake-20261124T233000');
  });
});
