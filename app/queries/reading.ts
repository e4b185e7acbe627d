import { type BuildLabel, BuildLabelSchema, countingDepots, DepotIndexSchema, type Game, ownKind } from '#core/builds';
import { parseJson } from '#core/json';
import { Failure } from '#core/failure';
import type { GameAnswer } from '#core/outside';
import type { ContentKey } from '#core/digest';
import { modById, releaseAt, releaseFileKey } from '#core/mods';
import { isBefore, readStartLog, startedAt } from '#core/start-log';
import { targetTree } from '#core/fetch';
import {
  checkClaims,
  checkNames,
  checkStatement,
  type HoldSheet,
  type Mismatch,
  parseHoldSheet,
  sheetFacts,
  checkRest,
  isOnlyLacking,
  restOfSheet,
} from '#core/hold';
import { type DigestsInText, digestsInText } from '#core/lists';
import { overlay } from '#core/manifest';
import { kindOfText, type TextKind } from '#core/recognise';
import {
  type ColumnMap,
  type DecidedNames,
  guessColumns,
  isSharedList,
  type ModTable,
  readModTable,
  type ReadListed,
  readSharedList,
} from '#core/tables';
import { decodeText } from './text-file';
import { platformSha256 } from '~/remote';
import {
  fileAddresses,
  fileAt,
  type InstallContext,
  installContext,
  installedReleases,
  learnManifests,
  manifestsOf,
} from './install-context';
import { type RawTable, readRawTable } from './raw-table';
import { recogniseDigests } from './surveying';
import type { KnownDigest } from './views';

/*
 * Reads what people hand over: files of any size and shape, which is why nothing of it runs on the page's own thread.
 * See stages.ts.
 */

/** A file's bytes, or a text that was typed or pasted. */
export type Given = Uint8Array | string;

/** @throws Failure `list/encoding` with file and line */
export const textOf = (given: Given, name: string): string =>
  typeof given === 'string' ? given : decodeText(given, name);

/** What a file is, by what is in it. @throws Failure `list/encoding` for one that is no text */
export async function kindOfFile(given: Given, name: string): Promise<TextKind> {
  return kindOfText(textOf(given, name));
}

/** How an index calls its game, and where that keeps what. @throws Failure `list/encoding`, `json/*` */
export async function gameOfIndex(given: Given, name: string): Promise<Pick<Game, 'title' | 'rules'>> {
  const { title, rules } = parseJson(textOf(given, name), DepotIndexSchema, name).game;
  return { title, rules };
}

/** What was read of a text, and what is known of each checksum in it. */
export interface ReadLog extends DigestsInText {
  readonly name: string;
  readonly known: readonly (readonly KnownDigest[])[];
}

/** More of either than anybody reads; what a text holds beyond is counted and no more. */
const MOST_DIGESTS = 5000;
const MOST_MISTYPED = 50;

/** The checksums that a log speaks of. @throws Failure `list/encoding` */
export async function readLog(installId: string, given: Given, name: string): Promise<ReadLog> {
  const { digests, mistyped } = digestsInText(textOf(given, name));
  const told = digests.slice(0, MOST_DIGESTS);
  return {
    name,
    digests: told,
    mistyped: mistyped.slice(0, MOST_MISTYPED),
    known: await recogniseDigests(installId, told),
  };
}

/** Rows of a table that are shown before it is taken over. */
const ROWS_SHOWN = 60;

/** A table of mods as it was read by a choice of columns. */
export interface TableReading {
  readonly name: string;
  readonly heads: readonly string[];
  readonly columns: ColumnMap;
  /** The first few. */
  readonly rows: RawTable['rows'];
  readonly rowCount: number;
  readonly table: ModTable;
  /** Its mods, where it is a list that somebody published. */
  readonly listed: readonly ReadListed[] | undefined;
}

/**
 * @param columns what the columns are; guessed by their heads where it is left out
 * @param decided what the person said of names that are alike
 * @param goodOnly leaves out the rows with faults, and those that have one without them
 * @throws Failure `list/encoding`, `json/*` or `table/*` with file and line
 */
export async function readTable(
  installId: string,
  given: Given,
  name: string,
  columns?: ColumnMap,
  decided?: DecidedNames,
  goodOnly = false,
): Promise<TableReading> {
  const { heads, rows } = readRawTable(name, textOf(given, name));
  const chosen = columns ?? guessColumns(heads);
  const { catalogue, index } = await installContext(installId);
  const known = { catalogue, builds: index.builds };
  let table = readModTable(rows, chosen, known, decided);
  for (let left = rows; goodOnly && table.badLines.size > 0;) {
    const { badLines } = table;
    left = left.filter(({ line }) => !badLines.has(line));
    table = readModTable(left, chosen, known, decided);
  }
  const listed = isSharedList(heads) ? readSharedList(heads, rows, catalogue) : undefined;
  return { name, heads, columns: chosen, rows: rows.slice(0, ROWS_SHOWN), rowCount: rows.length, table, listed };
}

/** A hold sheet, and all that it claims and that is not so. */
export interface SheetReading {
  readonly sheet: HoldSheet;
  readonly mismatches: readonly Mismatch[];
  /** Without what is not to be had here, where that is all that is against it. */
  readonly rest?: HoldSheet;
}

/**
 * Reads a hold sheet and holds every claim of it against what is known here: names first, and where they are known the
 * figures, which are worked out again from the manifests of its build.
 * @throws Failure `list/encoding`, `json/*`, `hold-sheet/unknown-version`; `service/*` where a manifest cannot be had
 */
export async function readSheet(installId: string, given: Given, name: string): Promise<SheetReading> {
  const sheet = parseHoldSheet(textOf(given, name), name);
  const { index, catalogue, install } = await installContext(installId);
  const own = await checkStatement(sheet, { index }, platformSha256, Date.now());
  if (own.length > 0) return { sheet, mismatches: own };
  const names = checkNames(sheet, { index, catalogue, ownership: install.ownership });
  const isRest = isOnlyLacking(names);
  if (names.length > 0 && !isRest) return { sheet, mismatches: names };
  const had = isRest ? restOfSheet(sheet, { catalogue }) : sheet;
  const { build, ownership, loadOrder: order, modList: list = '' } = had;
  await learnManifests(index, ownership);
  const depots = countingDepots(index, ownership);
  const manifests = (await manifestsOf(index, depots, build)) ?? [];
  const releases = new Map(had.releases.map(({ mod, release }) => [mod, release]));
  const filesHref = fileAddresses(index, depots, build);
  const tree = await targetTree(
    { index, laid: overlay(manifests), filesHref, catalogue, releases, order, list },
    platformSha256,
  );
  const known = await sheetFacts({ build, ownership, releases, order }, { index, catalogue }, tree, platformSha256);
  if (!isRest) return { sheet, mismatches: checkClaims(sheet, known) };
  const wrong = checkRest(had, known);
  return { sheet, mismatches: [...names, ...wrong], ...(wrong.length === 0 && { rest: had }) };
}

/** What a sheet says of one's mods. */
export interface SheetWeights {
  readonly build: BuildLabel;
  readonly weights: HoldSheet['weights'];
  readonly unknown: readonly Mismatch[];
}

/** The mods that a hold sheet wants, whatever else it claims. @throws Failure as {@link readSheet} */
export async function readSheetWeights(installId: string, given: Given, name: string): Promise<SheetWeights> {
  const sheet = parseHoldSheet(textOf(given, name), name);
  const { index, catalogue, install } = await installContext(installId);
  const unknown = checkNames(sheet, { index, catalogue, ownership: install.ownership }).filter(
    ({ claim, of }) => claim === 'game' || (claim === 'mod' && of === 'weights'),
  );
  return { build: sheet.build, weights: sheet.weights, unknown };
}

/** A mod's name as people and logs vary it. */
const plain = (name: string): string => name.toLowerCase().replace(/[^\p{L}\p{N}]/gu, '');

/**
 * When the folder was changed last, as far as is known: by what was done to it, and by the times of files that are as a build or a mod
 * has them. What the game itself writes while it runs tells nothing.
 */
function lastChanged({ install, survey, trees, installed, catalogue, index }: InstallContext, now: number): number {
  const { rules } = index.game;
  const isWritten = (path: string): boolean => ownKind(rules, path) !== undefined || path === rules.loadOrder;
  const ofMods = installed.flatMap(({ mod, release }) => {
    const of = modById(catalogue, mod);
    return (of && releaseAt(of, release)?.files) ?? [];
  });
  const modKeys = new Map(ofMods.map((file) => [file.path, releaseFileKey(file)]));
  const isKnown = (path: string, key: ContentKey): boolean =>
    modKeys.get(path) === key || [...trees.values()].some((tree) => fileAt(tree, path)?.key === key);
  let last = install.changedAt;
  for (const [i, path] of survey?.paths.entries() ?? []) {
    const time = survey!.modified[i]!;
    // What is in the future says nothing of when it was written.
    if (time > last && time <= now && !isWritten(path) && isKnown(path, survey!.keys[i]!)) last = time;
  }
  return last;
}

/**
 * What a log of the game's own tells of its last start, by the rules of the game, and when that was: milliseconds since 1970. Mods
 * that nobody knows stand in the log alone.
 * @param file the time of the log's file, where it is known
 * @throws Failure `list/encoding`, `log/says-neither` where the log, or the rules, do not say how it went; `log/too-old` where it was
 * written before the folder was changed last
 */
export async function startAnswer(
  installId: string,
  given: Given,
  name: string,
  file: number | undefined,
): Promise<{ readonly at: number; readonly answer: GameAnswer }> {
  const here = await installContext(installId);
  const { log: rule } = here.index.game.rules;
  const now = Date.now();
  const log = rule && readStartLog(textOf(given, name), rule, now);
  if (!log?.outcome) throw new Failure('log/says-neither', { file: name });
  const written = { told: log.told, file };
  if (isBefore(lastChanged(here, now), written)) throw new Failure('log/too-old', { file: name });
  const known = new Map(here.catalogue.mods.flatMap((mod) => [mod.name, mod.id].map((one) => [plain(one), mod.id])));
  const releases = installedReleases(here);
  const version = BuildLabelSchema.safeParse(log.version);
  const answer = {
    outcome: log.outcome,
    ...(version.success && { version: version.data }),
    mods: log.mods.flatMap(({ name: said, ran, line }) => {
      const mod = known.get(plain(said));
      return mod ? [{ mod, ran, release: releases.get(mod) ?? '', ...(line !== undefined && { why: line }) }] : [];
    }),
    log: [...log.lines],
  };
  return { at: startedAt(written, now), answer };
}
