import type { BuildLabel, DepotId } from '#core/builds';
import { BundleIndexSchema, framesOf } from '#core/bundles';
import { inLanes } from '#core/calls';
import { type ContentKey, keyPieceSize, pieceBytes } from '#core/digest';
import { Failure, failureToWire, isFailure, type WireFailure } from '#core/failure';
import { type FetchItem, isNowhere, type OfferedFrame, type Planned, planFrames } from '#core/fetch';
import { parseJson } from '#core/json';
import { keyAt, type Manifest } from '#core/manifest';
import { treePath } from '~/folders';
import { platformSha256, readPackedText, request } from '~/remote';
import { getBundleIndex, getManifest, knownBundleIndexes, putBundleIndex } from '~/store';
import type { BesideFolder } from './beside';
import { entriesOf, type InstallContext, type ManifestEntry } from './install-context';
import { asksForParts, givesWholeOnly, knownOfParts, learnParts, withWhole } from './giving-parts';
import { keepLast } from './keep-last';

/* What sources have compressed, and what of it is worth asking for. */

/** What sources say of a game. */
type Sources = Pick<InstallContext, 'index' | 'depots'>;

type Bundle = NonNullable<ManifestEntry['bundles']>[number];

/** A bundle of a depot at a build. */
interface DepotBundle {
  readonly entry: ManifestEntry;
  readonly bundle: Bundle;
}

/** Manifests that were asked for last: each is asked for again with every look at what sources have. */
const manifests = new Map<string, Promise<Manifest | undefined>>();
const MOST_MANIFESTS = 24;

function manifestOf(sha256: string): Promise<Manifest | undefined> {
  const known = manifests.get(sha256) ?? getManifest(sha256);
  manifests.delete(sha256);
  manifests.set(sha256, known);
  if (manifests.size > MOST_MANIFESTS) manifests.delete(manifests.keys().next().value!);
  // One that is not here yet may be here the next time.
  known.then(
    (manifest) => !manifest && manifests.delete(sha256),
    () => manifests.delete(sha256),
  );
  return known;
}

/** What the index of a bundle is kept by: by its digest, or where its source tells none by where it is and what it is of. */
const nameOf = ({ entry, bundle }: DepotBundle): string => bundle.sha256 ?? `${entry.sha256} ${bundle.index}`;

/** Bytes that the text of an index has at the most. */
const MOST_INDEX = 64 << 20;

const ASKED_AT_ONCE = 4;

/** Bundles against other builds that are asked about for one depot. */
const MOST_BASES = 2;
/** A build of which so little is at hand is no help. */
const LEAST_AT_HAND = 0.2;
/** What is left to come as it is, in bytes, before it is worth asking what else a source has of a depot. */
const LEAST_LEFT = 16 << 10;

/** Where contents lie on the disk of an install: in the game's folder, or in the store. */
export interface AtHand {
  readonly tree: string;
  readonly pathOf: ReadonlyMap<ContentKey, string>;
  readonly stored: ReadonlyMap<ContentKey, string>;
  /** Other folders of the same game. */
  readonly beside?: readonly Pick<BesideFolder, 'pathOf'>[];
}

function diskPath({ tree, pathOf, stored, beside = [] }: AtHand, key: ContentKey): string | undefined {
  const path = pathOf.get(key);
  if (path !== undefined) return treePath(tree, path);
  const kept = stored.get(key);
  if (kept !== undefined) return kept;
  for (const folder of beside) {
    const there = folder.pathOf(key);
    if (there !== undefined) return there;
  }
  return undefined;
}

/** Bytes of each depot that have to come as they are. */
function leftOf(items: readonly FetchItem[]): Map<DepotId, number> {
  const left = new Map<DepotId, number>();
  for (const item of items) {
    const { owner, source } = item;
    if (owner.kind !== 'depot' || source.how !== 'fetch' || isNowhere(item)) continue;
    const pieceSize = keyPieceSize(item.key);
    const bytes = source.pieces.reduce(
      (sum, whence, i) => (whence === undefined ? sum + pieceBytes(item.size, i, pieceSize) : sum),
      0,
    );
    left.set(owner.depot, (left.get(owner.depot) ?? 0) + bytes);
  }
  return left;
}

/** Shares that were worked out, by the manifest's digest: they count for as long as the same is at hand. */
const shares = new WeakMap<AtHand, Map<string, number>>();

/** How much of a depot at a build is at hand, as a share of its bytes; none of it where its manifest is not here. */
async function shareAtHand({ sha256 }: ManifestEntry, atHand: AtHand): Promise<number> {
  const known = shares.get(atHand) ?? new Map<string, number>();
  shares.set(atHand, known);
  const told = known.get(sha256);
  if (told !== undefined) return told;
  const manifest = await manifestOf(sha256);
  if (!manifest) return 0;
  let [all, here] = [0, 0];
  for (const [i, size] of manifest.sizes.entries()) {
    all += size;
    if (diskPath(atHand, keyAt(manifest, i)) !== undefined) here += size;
  }
  const share = all === 0 ? 0 : here / all;
  known.set(sha256, share);
  return share;
}

/** The bundles that may bring what is missing: those against builds of which most is at hand first, each depot's whole one last. */
async function bundlesFor(here: Sources, build: BuildLabel, atHand: AtHand): Promise<DepotBundle[]> {
  const all: DepotBundle[] = [];
  for (const entry of entriesOf(here.index, here.depots, build)) {
    const bases = await Promise.all(
      (entry.bundles ?? []).map(async (bundle) => {
        const base = bundle.from === undefined ? undefined : entryAt(here, bundle.from, entry.depot);
        return { bundle, share: base ? await shareAtHand(base, atHand) : 0 };
      }),
    );
    const near = bases
      .filter(({ bundle, share }) => bundle.from !== undefined && share >= LEAST_AT_HAND)
      .toSorted((a, b) => b.share - a.share)
      .slice(0, MOST_BASES);
    const whole = bases.find(({ bundle }) => bundle.from === undefined);
    for (const { bundle } of [...near, ...(whole ? [whole] : [])]) all.push({ entry, bundle });
  }
  return all;
}

const entryAt = ({ index }: Sources, build: BuildLabel, depot: DepotId): ManifestEntry | undefined =>
  entriesOf(index, [{ id: depot }], build)[0];

/** The frames of a bundle, by the text of its index. @throws Failure `json/*`, `bundle/does-not-fit` */
async function readFrames(here: Sources, { entry, bundle }: DepotBundle, text: string): Promise<OfferedFrame[]> {
  const manifest = await manifestOf(entry.sha256);
  if (!manifest) return [];
  const index = parseJson(text, BundleIndexSchema, bundle.index);
  const refuse = (problem: string): never => {
    throw new Failure('bundle/does-not-fit', { build: entry.build, depot: entry.depot, problem });
  };
  if (index.manifest !== entry.sha256) refuse('is of another manifest');
  if (index.from?.build !== bundle.from) refuse(`is against ${index.from?.build ?? 'no build'}`);
  const baseEntry = index.from && entryAt(here, index.from.build, entry.depot);
  if (index.from?.manifest !== baseEntry?.sha256) refuse(`is against another ${index.from?.build}`);
  const base = baseEntry && (await manifestOf(baseEntry.sha256));
  // What is behind a code may be refused.
  const heads = here.index.branches.filter((branch) => branch.build === index.from?.build);
  const isLocked = heads.length > 0 && heads.every(({ needsCode }) => needsCode);
  const baseHref = isLocked ? '' : (baseEntry?.filesHref ?? '');
  return framesOf(index, manifest, base).map((frame) => ({ ...frame, href: bundle.href, baseHref }));
}

/** Frames that were read, by the digest of their index and that of the manifest; those of the last few builds. */
const MOST_READ = 60;
const read = new Map<string, Promise<readonly OfferedFrame[]>>();
const frameName = (one: DepotBundle): string => `${one.bundle.href} ${nameOf(one)}`;

/** @returns none for an index that says what cannot be: its files come as they are then */
function framesIn(here: Sources, one: DepotBundle): Promise<readonly OfferedFrame[]> {
  let frames = read.get(frameName(one));
  if (!frames) {
    frames = getBundleIndex(nameOf(one))
      .then((text = '') => readFrames(here, one, text))
      .catch((error: unknown) => {
        if (!isFailure(error)) throw error;
        return [];
      });
    keepFrames(one, frames);
  }
  return frames;
}

function keepFrames(one: DepotBundle, frames: Promise<readonly OfferedFrame[]>): void {
  if (read.size >= MOST_READ) read.delete(read.keys().next().value!);
  read.set(frameName(one), frames);
}

const keptFrames = keepLast((_known: number, ...all: readonly (readonly OfferedFrame[])[]) =>
  all.flat().map((frame) => (givesWholeOnly(frame.href) ? { ...frame, inWhole: true } : frame)),
);
const keptPlan = keepLast((items: readonly FetchItem[], frames: readonly OfferedFrame[], atHand: AtHand) =>
  planFrames(items, frames, (key) => diskPath(atHand, key)),
);

/** What is wanted of a build, and what is at hand for it. */
interface Wish {
  readonly here: Sources;
  readonly build: BuildLabel;
  readonly items: readonly FetchItem[];
  readonly atHand: AtHand;
  /** Of a sign-in, for sources that want one. */
  readonly token?: string | undefined;
}

const keptItems = keepLast((items: readonly FetchItem[], _known: number) => withWhole(items));

/** What is to be fetched, with what comes by frames of the bundles whose indexes are here. */
export async function withFrames({ here, build, items: wanted, atHand }: Wish): Promise<Planned> {
  const items = keptItems(wanted, knownOfParts());
  const nothing = { items, frames: [] };
  if (!items.some(({ source }) => source.how === 'fetch')) return nothing;
  const known = await knownBundleIndexes();
  const bundles = (await bundlesFor(here, build, atHand)).filter((one) => known.has(nameOf(one)));
  const offered = await Promise.all(bundles.map((one) => framesIn(here, one)));
  const frames = keptFrames(knownOfParts(), ...offered);
  return frames.length === 0 ? nothing : keptPlan(items, frames, atHand);
}

/** Indexes that could not be had when they were last asked for, by their addresses. */
const failed = new Map<string, Failure>();

/** The bundle of each depot that it is worth asking about next: the one against the build of which most is had comes first. */
async function nextBundles({ here, build, atHand }: Wish, { items }: Planned): Promise<DepotBundle[]> {
  const known = await knownBundleIndexes();
  const unknown = (await bundlesFor(here, build, atHand)).filter(
    (one) => !known.has(nameOf(one)) && !failed.has(one.bundle.index),
  );
  if (unknown.length === 0) return [];
  const left = leftOf(items);
  const wanted = unknown.filter(({ entry }) => (left.get(entry.depot) ?? 0) > LEAST_LEFT);
  return wanted.filter(({ entry }, i) => wanted.findIndex((one) => one.entry.depot === entry.depot) === i);
}

/** Whether a source may have something compressed of which nothing is known yet, or was not asked yet whether it gives parts. */
export const asksSources = async (wish: Wish, planned: Planned): Promise<boolean> =>
  asksForParts(planned, wish.token) || (await nextBundles(wish, planned)).length > 0;

/** Asks for the index of a bundle, and keeps it. @throws Failure `service/*`, `source/not-as-expected`, `json/*`, `bundle/does-not-fit` */
async function learnBundle(here: Sources, one: DepotBundle): Promise<void> {
  const { index: href, sha256 } = one.bundle;
  const text = await readPackedText(await request(href), href, MOST_INDEX);
  const found = await platformSha256(text);
  if (sha256 !== undefined && found !== sha256)
    throw new Failure('source/not-as-expected', {
      url: href,
      what: 'index of its bundle',
      found: 'another text came than was announced',
    });
  const frames = await readFrames(here, one, text);
  await putBundleIndex(nameOf(one), text);
  keepFrames(one, Promise.resolve(frames));
}

/**
 * Asks for what sources have compressed, as far as it may help, and whether they give parts.
 * @returns the first failure: what it is of comes as it is
 */
export async function askSources(wish: Wish): Promise<WireFailure | undefined> {
  failed.clear();
  for (;;) {
    const next = await nextBundles(wish, await withFrames(wish));
    if (next.length === 0) break;
    await inLanes(next, ASKED_AT_ONCE, { gate: () => undefined }, async (one) => {
      try {
        await learnBundle(wish.here, one);
      } catch (error) {
        if (!isFailure(error)) throw error;
        failed.set(one.bundle.index, error);
      }
    });
  }
  await learnParts(await withFrames(wish), wish.token);
  const [first] = failed.values();
  return first && failureToWire(first);
}
