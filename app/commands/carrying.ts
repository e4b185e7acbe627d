import type { BuildLabel, ModId } from '#core/builds';
import { keyPieces } from '#core/digest';
import { Failure } from '#core/failure';
import { isNowhere } from '#core/fetch';
import { type Candidate, jsonPatch, nearestFirst, unifiedDiff } from '#core/merge';
import { type Mod, modById, type Release, releaseAt } from '#core/mods';
import { changesOf } from '~/changes';
import { jobs } from '~/jobs';
import { type CarryFile, type CarryView, query } from '~/queries';
import { decode } from '~/merging/encoding';
import { broadcast, type Carried, getCatalogue, getInstall, type Install, updateInstall } from '~/store';
import type { MergedFile, PlacedFile } from '~/workers';
import { inPool } from './in-pool';
import { releaseFile } from './shelf';

/* Carrying a mod forward: merging its files with the game's, what is decided there, and the release that comes of it. */

/** A file of which all three lie on the disk. */
type Whole = CarryFile & { readonly base: Required<CarryFile['ours']>; readonly theirs: Required<CarryFile['ours']> };

const isWhole = (file: CarryFile): file is Whole =>
  file.state === 'changed' && [file.ours, file.base, file.theirs].every((one) => one?.at !== undefined);

const placed = ({ at, size }: CarryFile['ours']): PlacedFile => ({ at: at!, size });

/**
 * Merges the files of a mod that the patch has changed, as far as they lie on the disk, by what was decided.
 * @param known what came of files before, by all that it depends on; what is new is added
 */
export async function compareFiles(
  install: Install,
  view: CarryView,
  known = new Map<string, MergedFile>(),
): Promise<readonly MergedFile[]> {
  const files = view.files.filter(isWhole).map(({ path, ours, base, theirs, layout, key }) => ({
    ...{ path, hints: { path, ...(layout && { layout }), ...(key && { key }) } },
    three: [placed(base), placed(ours), placed(theirs)] as const,
  }));
  const { decided, rules } = view;
  const told = new Map(
    files.map((wish) => {
      const isOwn = ({ file }: { readonly file: string }): boolean => file === wish.path;
      return [JSON.stringify([wish, decided.filter(isOwn), rules.filter(isOwn)]), wish];
    }),
  );
  // Taken now: another comparison may drop what it does not need while this one waits.
  const all = new Map([...told.keys()].map((key) => [key, known.get(key)]));
  const fresh = [...told].filter(([key]) => !known.has(key));
  if (fresh.length > 0) {
    const { arrivals: place } = changesOf(install);
    const wishes = fresh.map(([, wish]) => wish);
    const merged = await inPool((pool) => pool.run({ do: 'merge', place, files: wishes, decided, rules }));
    fresh.forEach(([key], i) => all.set(key, merged.files[i]!));
  }
  known.clear();
  for (const [key, file] of all) known.set(key, file!);
  return [...known.values()];
}

/** Writes down what is decided about the conflicts of a mod. */
export async function decideCarried(
  install: string,
  mod: ModId,
  change: (now: Omit<Carried, 'mod'>) => Partial<Omit<Carried, 'mod'>>,
): Promise<void> {
  await updateInstall(install, (now) => {
    const carries = now.carries ?? [];
    const before = carries.find((one) => one.mod === mod) ?? { decided: [], rules: [] };
    return { ...now, carries: [...carries.filter((one) => one.mod !== mod), { ...before, ...change(before), mod }] };
  });
  broadcast({ type: 'changed' });
}

type Wish = Pick<CarryView, 'mod' | 'release' | 'from' | 'to'>;

/**
 * Has the game's files that a release is made from be kept, those that lie nowhere fetched.
 * @param bases at each build that it may be made for
 * @throws Failure as the job does
 */
export async function keepVanillaOf(install: string, { mod, release, from, to }: Wish, bases = false): Promise<void> {
  await jobs.ended(await jobs.start('keep-vanilla', install, { mod, release, from, to, bases }));
}

/**
 * Finds the build whose files a release is nearest to, among those that it may be made for, as far as their files lie on the disk; it is
 * kept with the folder, and counts from then on.
 */
export async function findNearest(install: Install, { mod, release, from, to, files }: CarryView): Promise<void> {
  const known = await query('carryBases', install.id, { mod, release, from, to });
  const layouts = new Map(files.map(({ path, layout, key }) => [path, { layout, key }]));
  const wishes = (known?.bases ?? []).flatMap(({ build, files: own }) =>
    own.length === 0 || own.some(({ ours, base }) => ours.at === undefined || base.at === undefined)
      ? []
      : [
          {
            build,
            files: own.map(({ path, ours, base }) => {
              const { layout, key } = layouts.get(path) ?? {};
              const three = [placed(base), placed(ours), placed(base)] as const;
              return { path, three, hints: { path, ...(layout && { layout }), ...(key && { key }) } };
            }),
          },
        ],
  );
  const { arrivals: place } = changesOf(install);
  const builds = await inPool(async (pool) => {
    const all: Candidate<BuildLabel>[] = [];
    for (const { build, files: own } of wishes) {
      const merged = await pool.run({ do: 'merge', place, files: own, decided: [], rules: [] });
      const told = merged.files.filter(({ kind }) => kind !== undefined);
      const places = told.reduce((sum, { distance }) => sum + distance, 0);
      all.push({ of: build, files: told.length, places });
    }
    return nearestFirst(all).map(({ of: build, places }) => ({ build, places }));
  });
  await decideCarried(install.id, mod, () => ({ nearest: { release, builds } }));
}

/** An archive of files, each with its bytes. */
async function packed(name: string, files: readonly (readonly [path: string, bytes: Uint8Array<ArrayBuffer>])[]) {
  const { BlobWriter, configure, Uint8ArrayReader, ZipWriter } = await import('@zip.js/zip.js');
  configure({ useWebWorkers: false });
  const zip = new ZipWriter(new BlobWriter('application/zip'));
  for (const [path, bytes] of files) await zip.add(path, new Uint8ArrayReader(bytes));
  return new File([await zip.close()], name, { type: 'application/zip' });
}

/** The merged files with their bytes. @throws Failure `merge/open` while a conflict is open */
function outcomes(merged: readonly MergedFile[]): (readonly [path: string, bytes: Uint8Array<ArrayBuffer>])[] {
  return merged.flatMap(({ path, kind, merged: bytes, count }) => {
    if (kind === undefined) return [];
    if (!bytes) throw new Failure('merge/open', { path, count: count.open });
    return [[path, bytes] as const];
  });
}

const archiveName = ({ mod, version }: CarryView): string => `${mod}-${version}.zip`;

/**
 * Puts the outcome on the shelf as a release of the person's own: its merged files, and the others as they are. It goes into no folder
 * by that.
 * @returns the release
 * @throws Failure `merge/open` while a conflict is open; as the jobs do
 */
export async function carryForward(
  installId: string,
  asked: CarryView,
  merged: readonly MergedFile[],
): Promise<string> {
  const files = outcomes(merged);
  await keepVanillaOf(installId, asked);
  const install = await getInstall(installId);
  const view = await query('carry', installId, asked);
  const catalogue = await getCatalogue(install.game);
  const mod = modById(catalogue, asked.mod);
  const before = mod && releaseAt(mod, asked.release);
  if (!view || !mod || !before) throw new Failure('target/unknown-release', { mod: asked.mod, release: asked.release });
  const archive = await packed(archiveName(view), files);
  const { read, digests } = await inPool(async (pool) => {
    const looked = await pool.run({ do: 'look-into-archive', from: archive });
    const large = looked.files.filter(({ key }) => keyPieces(key).length > 1).map(({ path }) => path);
    const whole =
      large.length > 0 ? await pool.run({ do: 'digest-in-archive', from: archive, paths: large }) : undefined;
    return { read: looked.files, digests: new Map(whole?.digests ?? []) };
  });
  const fresh = new Map(read.map((file) => [file.path, file]));
  const kept = view.files.filter(({ path, ours }) => !fresh.has(path) && ours.at !== undefined);
  const source = `Carried from ${view.release}, made for ${view.from}`;
  const release: Release = {
    ...before,
    ...{
      version: view.version,
      date: new Date().toISOString().slice(0, 10),
      builds: [view.to],
      brokenOn: [],
      reports: [],
    },
    ...{ unofficial: source, note: noteOf(view, merged) },
    files: before.files.map((file) => {
      const own = fresh.get(file.path);
      return own ? releaseFile(file.path, own, digests.get(file.path)) : file;
    }),
  };
  const { releases: _, ...rest } = mod;
  const add: Mod & Record<'game' | 'from', string> & { at: number } = {
    ...{ ...rest, releases: [release], game: install.game, from: source, at: Date.now() },
  };
  const keys = [...read.map(({ key }) => key), ...kept.map(({ ours }) => ours.key)];
  await jobs.ended(
    await jobs.start('shelve', installId, {
      archives: [{ from: archive, isBag: false, files: read }],
      releases: [
        ...[{ mod: mod.id, release: view.version, keys, source, from: kept.map(({ ours }) => [ours.key, ours.at!]) }],
      ],
      add: [add],
    }),
  );
  return view.version;
}

/** What a person wants to know of a carried release a year later. */
function noteOf({ from, to, release, decided }: CarryView, merged: readonly MergedFile[]): string {
  const total = merged.reduce(
    (sum, { count }) => ({ clean: sum.clean + count.clean, decided: sum.decided + count.decided }),
    { clean: 0, decided: 0 },
  );
  const shown = decided.slice(0, 20).map(({ file, path, choice }) => {
    const what =
      typeof choice === 'object'
        ? choice.value
        : { ours: 'as in the mod', theirs: 'as in the game', shift: 'the mod’s change kept' }[choice];
    return `${file}, ${path.join(', ')}: ${what}`;
  });
  const first = `${release} carried from ${from} to ${to}: ${total.clean} changes without conflict, ${total.decided} decided.`;
  return [first, ...shown].join('\n').slice(0, 4000);
}

/** All files of the outcome in one archive. @throws Failure as {@link carryForward} */
export async function packCarried(install: Install, view: CarryView, merged: readonly MergedFile[]): Promise<File> {
  const files = outcomes(merged);
  const fresh = new Set(files.map(([path]) => path));
  const kept = view.files.filter(({ path, ours }) => !fresh.has(path) && ours.at !== undefined);
  const bytes = await readPlaced(
    install,
    kept.map(({ ours }) => placed(ours)),
  );
  return packed(archiveName(view), [...files, ...kept.map(({ path }, i) => [path, bytes[i]!] as const)]);
}

async function readPlaced(install: Install, files: readonly PlacedFile[]): Promise<readonly Uint8Array<ArrayBuffer>[]> {
  const { arrivals: place } = changesOf(install);
  return inPool(async (pool) => (await pool.run({ do: 'read', place, files })).bytes);
}

/** A file of the mod as it was, and as it is merged, as texts. */
export async function textsOf(install: Install, view: CarryView, merged: readonly MergedFile[]) {
  const files = merged.filter(({ kind }) => kind !== undefined && kind !== 'records');
  const ours = files.map(({ path }) => placed(view.files.find((file) => file.path === path)!.ours));
  const before = await readPlaced(install, ours);
  const now = new Map(outcomes(files));
  return files.flatMap(({ path, kind }, i) => {
    const [was, is] = [decode(before[i]!), decode(now.get(path)!)];
    return was && is ? [{ path, kind, was: was.text, is: is.text }] : [];
  });
}

/** What makes the carried files of the mod's own, as a unified diff. @throws Failure as {@link carryForward} */
export async function patchOf(install: Install, view: CarryView, merged: readonly MergedFile[]): Promise<string> {
  const texts = await textsOf(install, view, merged);
  return texts.map(({ path, was, is }) => unifiedDiff(path, was, is)).join('');
}

/** The same of one file in JSON, as a JSON Patch (RFC 6902). @throws Failure as {@link carryForward} */
export async function jsonPatchOf(install: Install, view: CarryView, merged: readonly MergedFile[]): Promise<string> {
  const { parse } = await import('jsonc-parser');
  const [text] = await textsOf(install, view, merged);
  return `${JSON.stringify(text ? jsonPatch(parse(text.was), parse(text.is)) : [], null, 2)}\n`;
}

/** What came of a mod that was to be carried with others. */
export interface CarriedAll {
  readonly mod: ModId;
  readonly name: string;
  readonly came: 'carried' | 'open' | 'nothing' | 'missing';
  readonly version: string;
}

/** Carries all mods of which no place is open, one after the other; the others wait for decisions. @throws Failure as the jobs do */
export async function carryAll(installId: string, views: readonly CarryView[]): Promise<readonly CarriedAll[]> {
  const all: CarriedAll[] = [];
  for (const asked of views) {
    const { mod, name, release } = asked;
    const tell = (came: CarriedAll['came'], version = release): void => void all.push({ mod, name, came, version });
    if (asked.missing.some(isNowhere)) {
      tell('missing');
      continue;
    }
    const { asksForBuild } = asked;
    if (asked.missing.length > 0 || asksForBuild) await keepVanillaOf(installId, asked, asksForBuild);
    const install = await getInstall(installId);
    // From the wrong build, what the patch did would count as the mod's.
    if (asksForBuild) await findNearest(install, asked);
    const view = await query('carry', installId, { mod, release, to: asked.to });
    const merged = view ? await compareFiles(install, view) : [];
    if (merged.some(({ count }) => count.open > 0)) tell('open');
    else if (!view || merged.every(({ kind }) => kind === undefined)) tell('nothing');
    else tell('carried', await carryForward(installId, view, merged));
  }
  return all;
}
