import { PLACES } from '#core/changes';
import { contentName, contentPath, makeReference } from '#core/contents';
import { type ContentKey, keySize } from '#core/digest';
import { type Keepsake, keepsakeReference } from '#core/keepsakes';
import { changesOf } from '~/changes';
import { besidePath, INSTALL_DISK } from '~/folders';
import { assertThere, contentsBeside, keeperOf, keepsakeAt } from '~/places';
import { platformSha256 } from '~/remote';
import type { Install } from '~/store';
import { type JobContext, uncounted } from '../job-context';
import { runCounted } from './batches';

/* Contents of keepsakes, on their way from one store to another. */

/** What a disk calls the contents of a store beside it. */
export const KEPT = 'kept';

/** Where each content of a keepsake lies beside a disk that has them as {@link KEPT}. */
export const besideKept = ({ files }: Keepsake): Promise<[ContentKey, string][]> =>
  Promise.all(
    files.map(async ({ key }): Promise<[ContentKey, string]> => {
      const path = contentPath(await contentName(key, platformSha256));
      return [key, besidePath(KEPT, path.slice(PLACES.contents.length + 1))];
    }),
  );

/** Contents of keepsakes, in each once, and their bytes. */
export function sumOf(keepsakes: Iterable<Keepsake>): readonly [contents: number, bytes: number] {
  const keys = [...keepsakes].flatMap(({ files }) => [...new Set(files.map(({ key }) => key))]);
  return [keys.length, keys.reduce((sum, key) => sum + keySize(key), 0)];
}

/**
 * A keepsake in the store of the folder. One of which only a copy in this browser is left is brought back there first.
 * @throws Failure `keepsake/gone`; `folder/*`, `served/*` where the folder itself is away just now
 */
export async function keepsakeHere(context: JobContext, install: Install, id: string): Promise<Keepsake> {
  const there = await (await keeperOf(install)).keepsake(id);
  if (there) return there;
  const copy = await keepsakeAt(install, id);
  await assertThere(install);
  await bringBack(context, install, copy);
  return copy;
}

async function bringBack(context: JobContext, install: Install, keepsake: Keepsake): Promise<void> {
  const changes = changesOf(install);
  if (await contentsBeside(install)) {
    const keys = new Set(keepsake.files.map(({ key }) => key));
    context.phase('Bringing the keepsake back into the folder’s store', ...sumOf([keepsake]));
    const reason = { kind: 'keepsake', install: install.id, keepsake: keepsake.id } as const;
    const named = { id: keepsakeReference(keepsake.id), at: keepsake.at, reason };
    // Named before they come, so that nobody clears them away meanwhile.
    const reference = await makeReference(named, keys, { sha256: platformSha256 });
    await changes.carryOut(uncounted(context), { act: 'refer', reference });
    const contents = await Promise.all(
      [...keys].map(async (key) => [key, contentPath(await contentName(key, platformSha256))] as const),
    );
    const from = { kind: 'browser-disk', disk: INSTALL_DISK(install.id) } as const;
    await runCounted(context, { do: 'take-over', contents, from, to: changes.arrivals });
  }
  await changes.carryOut(uncounted(context), { act: 'keepsake', install: install.id, keepsake, from: [] });
}
