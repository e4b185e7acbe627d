import type { DepotIndex, Ownership } from '#core/builds';
import { type Catalogue, modById, releaseAt } from '#core/mods';
import { shortenMiddle } from '#core/text';
import { type Sha256, treeDigest } from '#core/digest';
import type { SheetFacts } from './facts';
import type { HoldSheet } from './sheet';

/** Something that a sheet claims and that is not so, as far as anybody here knows. */
export interface Mismatch {
  readonly claim:
    | 'game'
    | 'held-at'
    | 'settings'
    | 'decision'
    | 'build'
    | 'language'
    | 'language-not-owned'
    | 'add-on'
    | 'add-on-not-owned'
    | 'optional-depot'
    | 'mod'
    | 'release'
    | 'release-twice'
    | 'release-files'
    | 'release-digest'
    | 'depot-unknown'
    | 'depot-missing'
    | 'depot-too-many'
    | 'depot-order'
    | 'depot-manifest'
    | 'depot-files'
    | 'depot-bytes'
    | 'load-order'
    | 'files'
    | 'bytes'
    | 'tree-digest';
  /** The depot, mod or release that it is claimed of; the sheet as a whole where it is left out. */
  readonly of?: string;
  readonly claimed: string | number;
  /** What is known instead; nothing, where it is known to nobody here. */
  readonly known?: string | number;
}

interface Known {
  readonly index: DepotIndex;
  readonly catalogue: Catalogue;
  /** What the person has who wants to take the sheet over. */
  readonly ownership: Ownership;
}

function checkOwnership({ ownership }: HoldSheet, { index, ownership: own }: Known): Mismatch[] {
  const found: Mismatch[] = [];
  const { language } = ownership;
  const languages = index.depots.filter(({ kind }) => kind === 'language');
  if (languages.length > 0 && !languages.some((depot) => depot.language === language)) {
    found.push({ claim: 'language', claimed: language });
  } else if (language !== own.language) {
    found.push({ claim: 'language-not-owned', claimed: language, known: own.language });
  }
  const kindOf = (id: string): string | undefined => index.depots.find((depot) => depot.id === id)?.kind;
  for (const id of ownership.addOns) {
    if (kindOf(id) !== 'add-on') found.push({ claim: 'add-on', claimed: id });
    else if (!own.addOns.includes(id)) found.push({ claim: 'add-on-not-owned', claimed: id });
  }
  for (const id of ownership.optional) {
    if (kindOf(id) !== 'optional') found.push({ claim: 'optional-depot', claimed: id });
  }
  return found;
}

function checkMods(sheet: HoldSheet, { catalogue }: Known): Mismatch[] {
  const found: Mismatch[] = [];
  const seen = new Set<string>();
  for (const { mod: id, release } of sheet.releases) {
    const mod = modById(catalogue, id);
    if (!mod) found.push({ claim: 'mod', of: 'releases', claimed: id });
    else if (!releaseAt(mod, release)) found.push({ claim: 'release', of: mod.name, claimed: release });
    if (seen.has(id)) found.push({ claim: 'release-twice', of: mod?.name ?? id, claimed: release });
    seen.add(id);
  }
  const { decision } = sheet;
  const others = {
    weights: Object.keys(sheet.weights),
    'load order': sheet.loadOrder,
    decision: decision ? [...decision.lost, ...decision.rolledBack].map(({ mod }) => mod) : [],
  };
  for (const [of, ids] of Object.entries(others)) {
    for (const id of ids) if (!modById(catalogue, id)) found.push({ claim: 'mod', of, claimed: id });
  }
  return found;
}

/** The names in a sheet that are known to nobody here, stand twice, or speak of what the person does not own. */
export function checkNames(sheet: HoldSheet, known: Known): Mismatch[] {
  const { index } = known;
  if (sheet.game.id !== index.game.id) return [{ claim: 'game', claimed: sheet.game.title, known: index.game.title }];
  if (!index.builds.some(({ label }) => label === sheet.build)) return [{ claim: 'build', claimed: sheet.build }];
  const unknown = sheet.depots.filter(({ id }) => !index.depots.some((depot) => depot.id === id));
  return [
    ...checkOwnership(sheet, known),
    ...unknown.map(({ id }): Mismatch => ({ claim: 'depot-unknown', claimed: id })),
    ...checkMods(sheet, known),
  ];
}

function checkDepots(claimed: SheetFacts['depots'], known: SheetFacts['depots']): Mismatch[] {
  const found: Mismatch[] = [];
  const claims = new Map(claimed.map((depot) => [depot.id, depot]));
  for (const depot of known) {
    const claim = claims.get(depot.id);
    if (!claim) {
      found.push({ claim: 'depot-missing', claimed: depot.id });
      continue;
    }
    const pairs = [
      ['depot-manifest', claim.manifestSha256, depot.manifestSha256],
      ['depot-files', claim.files, depot.files],
      ['depot-bytes', claim.bytes, depot.bytes],
    ] as const;
    for (const [what, said, is] of pairs) {
      if (said !== is) found.push({ claim: what, of: depot.id, claimed: said, known: is });
    }
  }
  const right = new Set(known.map(({ id }) => id));
  const extra = claimed.filter(({ id }, i) => !right.has(id) || claimed.findIndex((other) => other.id === id) < i);
  found.push(...extra.map(({ id }): Mismatch => ({ claim: 'depot-too-many', claimed: id })));
  const [said, is] = [claimed, known].map((depots) => depots.map(({ id }) => id).join(', '));
  if (found.length === 0 && said !== is) found.push({ claim: 'depot-order', claimed: said!, known: is! });
  return found;
}

/** As much of a list of mods as is told of it. */
const shortList = (text = ''): string => shortenMiddle(text.replace(/\s+/g, ' '), 120);

/** What a sheet claims otherwise than it is. @param known worked out from the build, ownership and releases of the sheet */
export function checkClaims(sheet: SheetFacts, known: SheetFacts): Mismatch[] {
  const found = checkDepots(sheet.depots, known.depots);
  const releases = new Map(known.releases.map((release) => [release.mod, release]));
  for (const { mod, name, files, digest } of sheet.releases) {
    const is = releases.get(mod);
    if (files !== is?.files)
      found.push({ claim: 'release-files', of: name, claimed: files, ...(is && { known: is.files }) });
    // A sheet of version 1 claims none.
    else if (digest !== undefined && digest !== is.digest)
      found.push({ claim: 'release-digest', of: name, claimed: digest, ...(is.digest && { known: is.digest }) });
  }
  const [said, is] = [sheet.loadOrder.join(', '), known.loadOrder.join(', ')];
  if (said !== is) found.push({ claim: 'load-order', claimed: said, known: is });
  else if (sheet.modList !== known.modList)
    found.push({ claim: 'load-order', claimed: shortList(sheet.modList), known: shortList(known.modList) });
  for (const [claim, field] of [
    ['files', 'files'],
    ['bytes', 'bytes'],
    ['tree-digest', 'treeDigest'],
  ] as const) {
    if (sheet[field] !== known[field]) found.push({ claim, claimed: sheet[field], known: known[field] });
  }
  return found;
}

/** Claims that speak of what nobody here has: without it the rest of a sheet can be rebuilt. */
const LACKING: ReadonlySet<Mismatch['claim']> = new Set(['mod', 'release']);

/** Whether all that is against a sheet is that parts of it are not to be had here. */
export const isOnlyLacking = (mismatches: readonly Mismatch[]): boolean =>
  mismatches.length > 0 && mismatches.every(({ claim }) => LACKING.has(claim));

/** A sheet without the mods and releases that are not to be had here. Its sums and its tree digest are those of the whole. */
export function restOfSheet(sheet: HoldSheet, { catalogue }: Pick<Known, 'catalogue'>): HoldSheet {
  const isKnown = (id: string): boolean => modById(catalogue, id) !== undefined;
  const { decision: _, ...rest } = sheet;
  return {
    ...rest,
    releases: sheet.releases.filter(({ mod, release }) => {
      const known = modById(catalogue, mod);
      return known !== undefined && releaseAt(known, release) !== undefined;
    }),
    loadOrder: sheet.loadOrder.filter(isKnown),
    weights: Object.fromEntries(Object.entries(sheet.weights).filter(([id]) => isKnown(id))),
  };
}

/** What the rest of a sheet claims otherwise than it is, without what only the whole can claim. */
export function checkRest(rest: SheetFacts, known: SheetFacts): Mismatch[] {
  const ofWhole: ReadonlySet<Mismatch['claim']> = new Set(['files', 'bytes', 'tree-digest', 'load-order']);
  return checkClaims(rest, known).filter(({ claim }) => !ofWhole.has(claim));
}

/** A clock may be wrong by so much, in milliseconds. */
const CLOCK_MS = 86_400_000;

/**
 * What a sheet says of itself that cannot be so, whoever reads it: a time that has not come yet, reasons that contradict one
 * another, settings that are none. What else it says of settings and reasons is its own word.
 * @param now milliseconds since 1970
 */
export async function checkStatement(
  { heldAt, settings, decision }: HoldSheet,
  { index }: Pick<Known, 'index'>,
  sha256: Sha256,
  now: number,
): Promise<Mismatch[]> {
  const found: Mismatch[] = [];
  if (Date.parse(heldAt) > now + CLOCK_MS) found.push({ claim: 'held-at', claimed: heldAt });
  if (settings && (settings.files === 0) !== (settings.digest === (await treeDigest([], sha256))))
    found.push({ claim: 'settings', claimed: settings.digest });
  if (decision) {
    const { at, wanted, running, lost, runnerUp } = decision;
    const isKnown = !runnerUp || index.builds.some(({ label }) => label === runnerUp.build);
    const isTimely = Date.parse(at) <= now + CLOCK_MS;
    if (running + lost.length > wanted || !isKnown || !isTimely) found.push({ claim: 'decision', claimed: at });
  }
  return found;
}
