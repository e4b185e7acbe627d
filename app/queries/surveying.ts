import type { BuildLabel } from '#core/builds';
import { asBuild, asDepot, ownKind, type OwnKind } from '#core/builds';
import { type ContentKey, keyPieces, keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { fileHref, whatToFetch } from '#core/fetch';
import { type ChecksumKind, type DigestInText, type ListedFile, parseChecksumList } from '#core/lists';
import {
  fileAt,
  manifestDigests,
  manifestFiles,
  manifestFromFiles,
  parseMetalink,
  writeMetalink,
} from '#core/manifest';
import { patchImpact } from '#core/mend';
import { type Mod, releaseFileKey } from '#core/mods';
import {
  cleaning,
  type CleaningRow,
  cleaningRows,
  compareTree,
  type DepotIdentity,
  type ExpectedFile,
  type FoundFile,
  foundFromList,
  keysByPath,
  type KnownContent,
  learnedContents,
  type LearnedFit,
  learnedFits,
  type LearnedFrom,
  learnedTree,
  likeliestBuild,
  listedKey,
  type MixedCase,
  mixedCases,
  nameStrays,
  quickIdentities,
  type QuickIdentity,
  type PublishedCut,
  type Reading,
  type StrayName,
  type SurveyRow,
  surveyTable,
  type DistinguishingFile,
  distinguishingFiles,
  withUnreadable,
} from '#core/survey';
import { versionAgrees } from '#core/versions';
import { decodeText } from './text-file';
import { addLearned, getPastSurvey, listLearned } from '~/store';
import {
  contentsOf,
  fileAddresses,
  foundFiles,
  type InstallContext,
  installContext,
  identities,
  isFresh,
  manifestsOf,
  treeOfTarget,
  unreadablePaths,
} from './install-context';
import { storedOf } from './stored';
import { keepLast } from './keep-last';
import type { CleanPlan, DifferenceView, FileView, KnownDigest, SurveyView } from './views';

/* What Survey shows and hands out. See stages.ts. */

/** SHA-256 of the whole of known contents of several pieces; of those of one piece it is the piece's. */
export function wholeDigests({ trees }: InstallContext): (key: ContentKey) => string | undefined {
  const known = new Map<ContentKey, string>();
  for (const tree of trees.values()) {
    for (const { key, pieces, sha256 } of tree) if (pieces.length > 1) known.set(key, sha256);
  }
  return (key) => {
    const pieces = keyPieces(key);
    return pieces.length === 1 ? pieces[0] : known.get(key);
  };
}

/** The published files, of any build, that are cut into pieces of another size than the usual one. */
export async function pieceSizes(installId: string): Promise<PublishedCut[]> {
  const { trees } = await installContext(installId);
  const cuts = new Map<string, PublishedCut>();
  for (const tree of trees.values()) {
    for (const { path, size, pieceSize } of tree) {
      if (pieceSize !== undefined) cuts.set(`${size} ${path}`, { path, size, pieceSize });
    }
  }
  return [...cuts.values()];
}

/** What the folder is held against: the likeliest build, or a person's record that fits it better. */
export interface Expected {
  readonly likeliest: BuildLabel | undefined;
  readonly learned: LearnedFit | undefined;
  readonly identities: readonly DepotIdentity[];
  readonly tree: readonly ExpectedFile[];
  readonly rows: readonly SurveyRow[];
}

const keptRows = keepLast(compareTree);

export async function expectedOf(here: InstallContext): Promise<Expected> {
  const ids = identities(here);
  const likeliest = likeliestBuild(ids, here.trees.keys());
  const known = likeliest ? here.trees.get(likeliest)! : [];
  const rows = withUnreadable(keptRows(known, here.found), unreadablePaths(here));
  const right = rows.reduce((sum, { state }) => sum + (state === 'true' ? 1 : 0), 0);
  const records = await listLearned(here.install.game);
  const best = records.length === 0 ? undefined : learnedFits(records, here.found, wholeDigests(here))[0];
  // A record of a few files, as a log gives it, fits easily; it stands for a folder only where it explains more of it.
  if (!best || best.found <= right || best.found * known.length <= right * best.total) {
    return { likeliest, learned: undefined, identities: ids, tree: known, rows };
  }
  const tree = learnedTree(best.record);
  return {
    likeliest,
    learned: best,
    identities: ids,
    tree,
    rows: withUnreadable(compareTree(tree, here.found), unreadablePaths(here)),
  };
}

export async function namesOf(here: InstallContext, rows: readonly SurveyRow[]): Promise<Map<string, StrayName>> {
  const { trees, installed, catalogue, index } = here;
  const learned = learnedContents(await listLearned(here.install.game), wholeDigests(here));
  return nameStrays(rows, trees, installed, catalogue, index.game.rules, learned);
}

export async function survey(installId: string): Promise<SurveyView | undefined> {
  const here = await installContext(installId);
  const { trees, found, installed, catalogue, depots } = here;
  if (!here.survey) return undefined;
  const { likeliest, learned, identities: ids, rows } = await expectedOf(here);
  const names = await namesOf(here, rows);
  const laid = (!learned && likeliest && trees.get(likeliest)) || [];
  const onDisk = keysByPath(found);
  const bytes = new Map<string, { expected: number; found: number }>();
  for (const { depot, path, size } of laid) {
    let sum = bytes.get(depot);
    if (!sum) bytes.set(depot, (sum = { expected: 0, found: 0 }));
    sum.expected += size;
    const key = onDisk.get(path);
    if (key !== undefined) sum.found += keySize(key);
  }
  return {
    table: surveyTable(rows, new Map(laid.map(({ path, depot }) => [path, depot])), names),
    depots: ids.map((id) => {
      const { title, order } = depots.find((depot) => depot.id === id.depot)!;
      return { ...id, title, order, bytes: bytes.get(id.depot) ?? { expected: 0, found: 0 } };
    }),
    likeliest,
    learned: learned && {
      label: learned.record.label,
      from: learned.record.from,
      at: learned.record.at,
      found: learned.found,
      total: learned.total,
    },
    cleaning: cleaning(cleaningRows(rows, names, found)),
    mixed: likeliest && !learned ? await mixedOf(here, ids, likeliest) : [],
    own: ownFiles(here),
    versions: (here.survey.versions ?? []).map(([path, version]) => {
      const label = learned?.record.label ?? likeliest;
      return { path, version, agrees: label === undefined ? undefined : versionAgrees(version, label) };
    }),
    installed,
    catalogue,
    at: here.survey.at,
    fresh: isFresh(here),
    trusted: here.survey.trusted,
    unreadable: here.survey.unreadable,
  };
}

function ownFiles({ found, index }: InstallContext): SurveyView['own'] {
  const own: { kind: OwnKind; size: number }[] = [];
  for (const { path, size } of found) {
    const kind = ownKind(index.game.rules, path);
    if (kind) own.push({ kind, size });
  }
  return own;
}

/** What cleaning the folder up does, file by file. */
export async function cleanUp(installId: string): Promise<readonly CleaningRow[]> {
  const here = await installContext(installId);
  const { rows } = await expectedOf(here);
  return cleaningRows(rows, await namesOf(here, rows), here.found);
}

/**
 * Plans how a folder becomes clean.
 * @param leave files that are left alone
 * @throws Failure `job/not-checked-out` while there is no survey, or no build that the folder is held against
 */
export async function cleanPlan(installId: string, leave: readonly string[]): Promise<CleanPlan> {
  const here = await installContext(installId);
  const { likeliest, learned, rows } = await expectedOf(here);
  const tree = likeliest && (await treeOfTarget(here, { build: likeliest, releases: [] }));
  if (!tree || learned) throw new Failure('job/not-checked-out', { what: 'build' });
  const left = new Set(leave);
  const wanted = cleaningRows(rows, await namesOf(here, rows), here.found).filter(({ path }) => !left.has(path));
  const touched = new Set(wanted.map(({ path }) => path));
  const back = new Set(wanted.flatMap(({ path, does }) => (does === 'setAside' ? [] : [path])));
  const items = whatToFetch(
    tree.filter(({ path }) => back.has(path)),
    { contents: contentsOf(here.found), stored: await storedOf(here.install) },
  );
  return {
    build: likeliest,
    toFetch: items.filter(({ source }) => source.how === 'fetch'),
    plan: {
      rows: items.flatMap(({ path, size, key, source }) =>
        source.how === 'fetch' ? [] : [{ path, size, key, source, own: false }],
      ),
      found: new Map(here.found.flatMap(({ path, key }) => (touched.has(path) ? [[path, key] as const] : []))),
    },
  };
}

async function mixedOf(here: InstallContext, ids: readonly DepotIdentity[], build: BuildLabel): Promise<MixedCase[]> {
  const { index, depots, found, trees } = here;
  const languages = index.depots.filter(({ kind, id }) => kind === 'language' && !depots.some((one) => one.id === id));
  const [manifests, ...others] = await Promise.all([
    manifestsOf(index, depots, build),
    ...languages.map((language) => manifestsOf(index, [language], build)),
  ]);
  return mixedCases({
    depots,
    identities: ids,
    builds: [...trees.keys()],
    found,
    manifests: manifests ?? [],
    otherLanguages: others.flatMap((manifest) => manifest ?? []),
  });
}

/** All that is known of one file: whose its bytes are, which builds have them, what was expected. */
export async function surveyedFile(installId: string, path: string): Promise<FileView | undefined> {
  const here = await installContext(installId);
  const { rows } = await expectedOf(here);
  const row = rows.find((one) => one.path === path);
  if (!row) return undefined;
  const sha256Of = wholeDigests(here);
  const digestOf = (key: ContentKey | undefined): string | undefined =>
    key === undefined ? undefined : key.startsWith('listed:') ? key.slice('listed:'.length) : sha256Of(key);
  const builds = [...here.trees].filter(([, tree]) =>
    tree.some((file) => file.path === path && file.key === row.found),
  );
  return {
    name: (await namesOf(here, [row])).get(path),
    builds: builds.map(([build]) => build),
    found: digestOf(row.found),
    expected: digestOf(row.expected),
    expectedSize: row.expected === undefined ? undefined : keySize(row.expected),
  };
}

/** What is different from an earlier survey of the install, which began at `before`. */
export async function difference(installId: string, before: number): Promise<DifferenceView | undefined> {
  const [here, past] = await Promise.all([installContext(installId), getPastSurvey(installId, before)]);
  if (!past) return undefined;
  const { changes } = patchImpact(foundFiles(past), here.found);
  return {
    paths: changes.map(({ path }) => path),
    changes: changes.map(({ change }) => change),
    to: changes.map((change) => (change.change === 'moved' ? change.to : undefined)),
    sizes: Float64Array.from(changes, ({ bytes }) => bytes),
  };
}

/**
 * SHA-256 of every file that was found, as far as it is known without reading the folder again: of a file of one piece
 * it is the piece's, of a larger one a manifest tells it.
 */
export async function checksums(installId: string): Promise<{ files: ListedFile[]; unknown: string[] }> {
  const here = await installContext(installId);
  const sha256Of = wholeDigests(here);
  const files: ListedFile[] = [];
  const unknown: string[] = [];
  for (const { path, key } of here.found) {
    const digest = sha256Of(key);
    if (digest === undefined) unknown.push(path);
    else files.push({ path, digest });
  }
  return { files, unknown };
}

/**
 * The whole tree of a build for this ownership as one Metalink 4 document.
 * @param origin begins the addresses of its files
 * @throws Failure `store/failed` while its manifests are not here
 */
export async function metalink(installId: string, build: BuildLabel, origin: string): Promise<string> {
  const { index, depots, trees } = await installContext(installId);
  const laid = trees.get(build);
  if (!laid) throw new Failure('store/failed', { what: `manifests of ${build}` });
  const bases = fileAddresses(index, depots, build);
  const hrefs = new Map(laid.map(({ path, depot }) => [path, new URL(fileHref(bases.get(depot)!, path), origin).href]));
  return writeMetalink(manifestFromFiles(build, asDepot('whole'), laid), (path) => hrefs.get(path)!);
}

/** The files whose bytes tell the known builds apart. */
export async function distinguishing(installId: string): Promise<readonly DistinguishingFile[]> {
  return distinguishingFiles((await installContext(installId)).trees).files;
}

/** What names and sizes, and the bytes of the sampled files, say of each depot. */
export async function quickLook(
  installId: string,
  { paths, sizes, read }: { paths: readonly string[]; sizes: Float64Array; read: ReadonlyMap<string, ContentKey> },
): Promise<QuickIdentity[]> {
  const { depots, trees } = await installContext(installId);
  const here = new Map(paths.map((path, i) => [path, sizes[i]!]));
  return quickIdentities(depots, trees, here, distinguishingFiles(trees).files, read);
}

/** The contents whose checksum of a kind some manifest of a counting depot, or the mods' catalogue, tells. */
async function contentsKnownBy(
  { index, depots, trees, catalogue }: InstallContext,
  kind: ChecksumKind,
): Promise<KnownContent[]> {
  const known: KnownContent[] = [];
  for (const build of trees.keys()) {
    for (const manifest of (await manifestsOf(index, depots, build)) ?? []) {
      manifestDigests(manifest, kind)?.forEach((digest, i) => {
        const { size, key } = fileAt(manifest, i);
        known.push({ digest, size, key });
      });
    }
  }
  if (kind !== 'sha-256') return known;
  const files = catalogue.mods.flatMap(({ releases }) => releases.flatMap(({ files: some }) => some));
  return [...known, ...files.map((file) => ({ digest: file.sha256, size: file.size, key: releaseFileKey(file) }))];
}

/**
 * A folder as a list of its files tells it: a checksum list, or a Metalink 4 document, which tells sizes as well.
 * @param file how the text is called in errors
 * @throws Failure `list/*`, `metalink/*`, `digest/malformed`, `path/*` with file and line; `list/kind-not-known` for
 *   checksums that no manifest has
 */
export async function listed(installId: string, bytes: Uint8Array, file: string): Promise<Reading> {
  const text = decodeText(bytes, file);
  const found = text.trimStart().startsWith('<')
    ? manifestFiles(parseMetalink(text, asBuild('listed'), asDepot('listed'), file))
    : await listedFiles(installId, text, file);
  return {
    at: Date.now(),
    paths: found.map(({ path }) => path),
    sizes: Float64Array.from(found, ({ size }) => size),
    modified: new Float64Array(found.length).fill(NaN),
    keys: found.map(({ key }) => key),
  };
}

async function listedFiles(installId: string, text: string, file: string): Promise<readonly FoundFile[]> {
  const list = parseChecksumList(text, file);
  const known = await contentsKnownBy(await installContext(installId), list.kind);
  if (known.length === 0) throw new Failure('list/kind-not-known', { file, found: list.kind });
  return foundFromList(list, known);
}

async function record(
  game: string,
  label: string,
  from: LearnedFrom,
  files: readonly { path: string; key: ContentKey }[],
): Promise<void> {
  await addLearned(game, {
    id: crypto.randomUUID(),
    label,
    at: Date.now(),
    from,
    paths: files.map(({ path }) => path),
    keys: files.map(({ key }) => key),
  });
}

/** Puts checksums that a text speaks of under a person's own label, each for the path that is given with it. */
export async function recordDigests(
  game: string,
  label: string,
  text: string,
  digests: readonly { path: string; digest: string }[],
): Promise<void> {
  const files = digests.map(({ path, digest }) => ({ path, key: listedKey(digest) }));
  await record(game, label, { kind: 'log', name: text }, files);
}

function modsWith(mods: readonly Mod[], digest: string): KnownDigest[] {
  return mods.flatMap(({ id, name, releases }) =>
    releases.flatMap(({ version, files }) =>
      files
        .filter((file) => file.sha256 === digest)
        .map(({ path }): KnownDigest => ({ kind: 'mod', mod: id, name, release: version, path })),
    ),
  );
}

/** What each checksum of a text is the checksum of, as far as manifests, catalogue and records tell; in their order. */
export async function recogniseDigests(installId: string, digests: readonly DigestInText[]): Promise<KnownDigest[][]> {
  const here = await installContext(installId);
  const byDigest = new Map<string, Map<string, { path: string; builds: BuildLabel[] }>>();
  const asked = new Set(digests.map(({ digest }) => digest));
  const kinds = [...new Set(digests.map(({ kind }) => kind))];
  for (const build of here.trees.keys()) {
    for (const manifest of (await manifestsOf(here.index, here.depots, build)) ?? []) {
      for (const kind of kinds) {
        manifestDigests(manifest, kind)?.forEach((digest, i) => {
          if (!asked.has(digest)) return;
          const path = manifest.paths[i]!;
          const paths = byDigest.get(digest) ?? new Map<string, { path: string; builds: BuildLabel[] }>();
          const at = paths.get(path) ?? { path, builds: [] };
          byDigest.set(digest, paths.set(path, { path, builds: [...at.builds, build] }));
        });
      }
    }
  }
  const records = await listLearned(here.install.game);
  return digests.map(({ digest }) => [
    ...[...(byDigest.get(digest)?.values() ?? [])].map((file): KnownDigest => ({ kind: 'build', ...file })),
    ...modsWith(here.catalogue.mods, digest),
    ...records.flatMap(({ label, from, paths, keys }) =>
      keys.flatMap((key, i): KnownDigest[] =>
        key === listedKey(digest) || (keyPieces(key).length === 1 && keyPieces(key)[0] === digest)
          ? [{ kind: 'learned', label, from, path: paths[i]! }]
          : [],
      ),
    ),
  ]);
}
