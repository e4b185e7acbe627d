import { useEffect, useMemo, useState } from 'react';
import { isFailure } from '#core/failure';
import { type FetchItem, isNowhere, isToCome } from '#core/fetch';
import type { FetchView } from '~/queries';
import { asksSignIn, getStream } from '~/remote';
import type { StoredSession } from '~/store';

/** The largest of the files that come in several pieces: of a file that is one piece nobody asks for a part. */
function largest(items: readonly FetchItem[]): FetchItem | undefined {
  const cut = items.filter(
    (item) =>
      item.source.how === 'fetch' &&
      item.source.pieces.length > 1 &&
      item.source.pieces.some(isToCome) &&
      !isNowhere(item),
  );
  return cut.reduce<FetchItem | undefined>((most, item) => (most && most.size >= item.size ? most : item), undefined);
}

/**
 * Whether the source gives parts of files, asked for by the first byte of one; undefined until it has answered, and where it
 * does not matter, or cannot be asked yet.
 */
export function useGivesParts(
  { items, frames }: Pick<FetchView, 'items' | 'frames'>,
  session: StoredSession | undefined,
  isIdle: boolean,
): boolean | undefined {
  // A bundle is no use to anybody who cannot have its frames.
  const href = useMemo(() => frames[0]?.href ?? largest(items)?.href, [items, frames]);
  const token = href !== undefined && asksSignIn(href) ? session?.token : undefined;
  const asks = isIdle && href !== undefined && (!asksSignIn(href) || token !== undefined);
  const [told, setTold] = useState<{ readonly href: string; readonly parts: boolean }>();
  const known = told?.href === href;
  useEffect(() => {
    if (!asks || known) return;
    const stop = new AbortController();
    firstByte(href, token, stop.signal).then(
      (parts) => setTold({ href, parts }),
      // What keeps it from answering is told by the fetch itself.
      () => undefined,
    );
    return () => stop.abort();
  }, [asks, href, known, token]);
  return known ? told?.parts : undefined;
}

/** @returns whether it came alone. @throws Failure as the source fails */
async function firstByte(href: string, token: string | undefined, signal: AbortSignal): Promise<boolean> {
  try {
    // Read, and let go: a stream that nobody begins stays open.
    for await (const _ of await getStream(href, { range: { start: 0, end: 1 }, token, signal })) break;
    return true;
  } catch (error) {
    if (isFailure(error, 'service/no-ranges')) return false;
    throw error;
  }
}
