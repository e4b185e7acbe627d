import type { z } from 'zod';
import { DepotIndexSchema } from '#core/builds';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';
import { CatalogueSchema } from '#core/mods';
import { fromPrefix, placeCatalogue, placeIndex, sourceAddress, type SourcePlace } from '#core/sources';
import type { GameSource, Said, Told } from '~/store';
import { readText, request } from './http';
import { DEPOT_SERVICE, MOD_SERVICE } from './services';
import { platformSha256 } from './sha256';

/** Characters that an index or a catalogue has at most. */
const MOST_TEXT = 64 << 20;

/** What the source said before, by the SHA-256 of its text. */
export interface Before {
  readonly index: string | undefined;
  readonly catalogue: string | undefined;
}

const WHAT = { index: 'index of builds', catalogue: 'catalogue of mods' } as const;

/** A server that has no such file often answers with a page that says so. */
function assertNoPage(text: string, url: string, what: keyof typeof WHAT): void {
  if (/^\s*</.test(text))
    throw new Failure('source/not-as-expected', { url, what: WHAT[what], found: 'a web page came instead' });
}

/** Asks for a text anew. @returns undefined where it is what it was before @throws Failure `service/*`, `source/*`, `json/*` */
async function askAnew<Schema extends z.ZodType>(
  { prefix, path }: SourcePlace,
  what: keyof typeof WHAT,
  schema: Schema,
  before: string | undefined,
): Promise<Said<z.output<Schema>> | undefined> {
  const url = prefix + path;
  const text = await readText(await request(url), url, MOST_TEXT);
  assertNoPage(text, url, what);
  const digest = await platformSha256(text);
  return digest === before ? undefined : { value: parseJson(text, schema, url), digest };
}

async function askIndex(place: SourcePlace, before: string | undefined): Promise<Told['index']> {
  const said = await askAnew(place, 'index', DepotIndexSchema, before);
  return said && { ...said, value: placeIndex(said.value, place) };
}

async function askCatalogue(place: SourcePlace, before: string | undefined): Promise<Told['catalogue']> {
  const said = await askAnew(place, 'catalogue', CatalogueSchema, before);
  return said && { ...said, value: placeCatalogue(said.value, place) };
}

/** Where an address lies, as the page's own server passes it on. @throws Failure `source/not-an-address` */
export function placeOfAddress({
  href,
  trust,
}: Pick<Extract<GameSource, { kind: 'address' }>, 'href' | 'trust'>): SourcePlace {
  const url = sourceAddress(href);
  return { prefix: fromPrefix(url, trust), path: url.pathname + url.search };
}

/**
 * Asks a source what there is.
 * @returns what it says anew; what it says as before is left out
 * @throws Failure `service/*`, `source/*`, `json/*`
 */
export async function askSource(source: GameSource, before: Before): Promise<Told> {
  switch (source.kind) {
    case 'service': {
      const [index, catalogue] = await Promise.all([
        askIndex({ prefix: '', path: `${DEPOT_SERVICE}index.json` }, before.index),
        askCatalogue({ prefix: '', path: `${MOD_SERVICE}index.json` }, before.catalogue),
      ]);
      return { index, catalogue };
    }
    case 'address': {
      const place = placeOfAddress(source);
      return source.of === 'builds'
        ? { index: await askIndex(place, before.index) }
        : { catalogue: await askCatalogue(place, before.catalogue) };
    }
    case 'handed':
    case 'recorded':
      return {};
  }
}
