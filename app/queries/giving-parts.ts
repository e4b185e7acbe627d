import { isFailure } from '#core/failure';
import { type FetchItem, isNowhere, isToCome, type Planned } from '#core/fetch';
import { askedOf } from '#core/sources';
import { asksSignIn, getStream, tokenFor } from '~/remote';

/* Whether sources give parts of what they have: some static servers give all of a file or nothing. */

/** How long nobody is asked again. */
const COUNTS_MS = 30_000;

/** What sources have shown, by who was asked, and when. */
const shown = new Map<string, { readonly parts: boolean; readonly at: number }>();
/** Those that did not answer when they were asked last. */
const silent = new Set<string>();
let changes = 0;

/** Whether a source gives nothing but all of what lies at an address; of one that was not asked yet nobody knows that. */
export const givesWholeOnly = (href: string): boolean => shown.get(askedOf(href))?.parts === false;

/** Another number whenever something else is known of them. */
export const knownOfParts = (): number => changes;

/** Of whom it matters whether they give parts: bundles whose frames are wanted, and files of several pieces; for each one address. */
function wantedOf({ items, frames }: Planned): Map<string, string> {
  const wanted = new Map<string, string>();
  for (const { href } of frames) wanted.set(askedOf(href), href);
  for (const item of items) {
    const { source, href } = item;
    // Of a file that is one piece nobody asks for a part.
    if (source.how !== 'fetch' || source.pieces.length < 2 || !source.pieces.some(isToCome) || isNowhere(item))
      continue;
    if (!wanted.has(askedOf(href))) wanted.set(askedOf(href), href);
  }
  return wanted;
}

/** Addresses to ask for their first byte. @param token of a sign-in; who wants one is not asked without it */
function toAsk(planned: Planned, token: string | undefined): string[] {
  return [...wantedOf(planned)].flatMap(([of, href]) =>
    Date.now() - (shown.get(of)?.at ?? -Infinity) < COUNTS_MS ||
    silent.has(of) ||
    (asksSignIn(href) && token === undefined)
      ? []
      : [href],
  );
}

export const asksForParts = (planned: Planned, token: string | undefined): boolean => toAsk(planned, token).length > 0;

/** Asks sources of which it matters, and is not known. */
export async function learnParts(planned: Planned, token: string | undefined): Promise<void> {
  silent.clear();
  await Promise.all(
    toAsk(planned, token).map(async (href) => {
      const of = askedOf(href);
      try {
        const parts = await givesParts(href, token);
        // Whoever was not asked yet is taken to give them.
        if (parts !== (shown.get(of)?.parts ?? true)) changes += 1;
        shown.set(of, { parts, at: Date.now() });
      } catch (error) {
        if (!isFailure(error)) throw error;
        // What keeps it from answering is told by the fetch itself.
        silent.add(of);
      }
    }),
  );
}

/** Asks for the first byte of a file. @returns whether it came alone. @throws Failure as the source fails */
async function givesParts(href: string, token: string | undefined): Promise<boolean> {
  try {
    const first = await getStream(href, { range: { start: 0, end: 1 }, token: tokenFor(href, token) });
    // Read, and let go: a stream that nobody begins stays open.
    for await (const _ of first) break;
    return true;
  } catch (error) {
    if (isFailure(error, 'service/no-ranges')) return false;
    throw error;
  }
}

/** Items, with those that come as a whole known as such; the same ones where there are none. */
export function withWhole(items: readonly FetchItem[]): readonly FetchItem[] {
  if ([...shown.values()].every(({ parts }) => parts)) return items;
  return items.map((item) =>
    item.source.how === 'fetch' && givesWholeOnly(item.href)
      ? { ...item, source: { ...item.source, inWhole: true } }
      : item,
  );
}
