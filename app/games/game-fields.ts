import type { z } from 'zod';
import { type Game, GameRulesSchema, type OwnKind, type RECORD_FORMS } from '#core/builds';
import { isFailure } from '#core/failure';
import { assertSafePath, isGlob, PathOrGlobSchema } from '#core/paths';
import type { GameForm } from '~/commands';
import { failureWords } from '~/parts/failure-words';

/* What one types of a game, and the rules that it stands for. */

/** Folders of the player's own files, a line each, by kind. */
export const OWN: readonly { kind: OwnKind; field: OwnKind; label: string }[] = [
  { kind: 'saves', field: 'saves', label: 'Saves' },
  { kind: 'settings', field: 'settings', label: 'Settings' },
  { kind: 'content', field: 'content', label: 'Own content' },
  { kind: 'presets', field: 'presets', label: 'Settings of mods' },
];

/** Single files and folders, each of which a game may do without. */
export const PATHS = [
  {
    field: 'program',
    label: 'Program',
    about: 'The file that starts it, from the game’s folder on',
    placeholder: 'bin/game.prog',
  },
  {
    field: 'modsFolder',
    label: 'Folder with mods',
    about: 'Leave empty where mods lie among the game’s files',
    placeholder: 'mods',
  },
  {
    field: 'loadOrder',
    label: 'List of mods to load',
    about: 'If the game has one; with the id of one mod a line, unless you say below how it is written',
    placeholder: 'mods/load-order.txt',
  },
] as const;

export interface Fields {
  title: string;
  program: string;
  modsFolder: string;
  loadOrder: string;
  saves: string;
  settings: string;
  content: string;
  presets: string;
  layout: string;
  listOn: string;
  listOff: string;
  listHead: string;
  listBetween: string;
  listTail: string;
  fetchLine: string;
  versions: string;
  logFile: string;
  logVersion: string;
  logUp: string;
  logCrashed: string;
  logLoaded: string;
  logFailed: string;
  switchFile: string;
  switchForm: (typeof RECORD_FORMS)[number];
  switchAt: string;
  switchOn: string;
  recordFile: string;
  recordForm: (typeof RECORD_FORMS)[number];
  recordAt: string;
  recordStops: string;
  recordGoes: string;
  recordBranch: string;
  recordCode: string;
}

/** What a log tells, by patterns. */
export const LOG = [
  { field: 'logUp', rule: 'up', label: 'Line when the game has come up', placeholder: 'main menu ready' },
  { field: 'logCrashed', rule: 'crashed', label: 'Line when it has crashed', placeholder: '^FATAL' },
  { field: 'logVersion', rule: 'version', label: 'Line with its version', placeholder: '^Version ([0-9.]+)' },
  { field: 'logLoaded', rule: 'loaded', label: 'Line of a mod that was loaded', placeholder: 'loaded mod "(.*)"' },
  { field: 'logFailed', rule: 'failed', label: 'Line of a mod that was not', placeholder: 'cannot load mod "(.*)"' },
] as const;

const logOf = (said: Omit<Fields, 'title'>): Game['rules']['log'] =>
  asPath(said.logFile) === ''
    ? undefined
    : {
        file: asPath(said.logFile),
        ...Object.fromEntries(
          LOG.flatMap(({ field, rule }) => (said[field].trim() === '' ? [] : [[rule, said[field].trim()]])),
        ),
      };

/** Why the rules do not take a part of a log that was typed, or the log as a whole; null where they do. */
function logFault(said: Omit<Fields, 'title'>, part: string): string | null {
  const { error } = GameRulesSchema.shape.log.safeParse(logOf(said));
  const issue = error?.issues.find(({ path }) => (path[0] ?? 'up') === part);
  return issue ? `It ${issue.message}.` : null;
}

/** How a list of mods is written, as it was typed; undefined where it is the id of one a line. */
const listOf = (said: Omit<Fields, 'title'>): Game['rules']['listSyntax'] =>
  said.listOn.trim() === ''
    ? undefined
    : {
        on: said.listOn,
        ...(said.listOff.trim() !== '' && { off: said.listOff }),
        ...(said.listBetween !== '' && { between: `${said.listBetween}\n` }),
        ...(said.listHead !== '' && { head: `${said.listHead}\n` }),
        ...(said.listTail !== '' && { tail: `\n${said.listTail}\n` }),
      };

function listFault(said: Omit<Fields, 'title'>, part: 'on' | 'off'): string | null {
  const { error } = GameRulesSchema.shape.listSyntax.safeParse(listOf(said));
  const issue = error?.issues.find(({ path }) => path[0] === part);
  return issue ? `It ${issue.message}.` : null;
}

/** Files with a version as they were typed, one a line: a path, and behind a colon the pattern. */
export const versionsOf = (text: string): Game['rules']['versions'] => {
  const typed = text.split('\n').filter((line) => line.trim() !== '');
  return typed.length === 0
    ? undefined
    : typed.map((line) => {
        const [file, ...pattern] = line.split(/:\s+/);
        return { file: asPath(file!), ...(pattern.length > 0 && { pattern: pattern.join(': ') }) };
      });
};

const OWN_FOLDER = /,\s*own folder\s*$/i;

/** Where files of mods belong as it was typed, one rule a line: names, and the folder behind a colon. */
export const layoutOf = (text: string): Game['rules']['layout'] => {
  const typed = text.split('\n').filter((line) => line.trim() !== '');
  return typed.length === 0
    ? undefined
    : typed.map((line) => {
        const [files = '', ...folder] = line.split(/:\s*/);
        const place = folder.join(':');
        return {
          ...{ files: files.trim(), folder: asPath(place.replace(OWN_FOLDER, '')) },
          ...(OWN_FOLDER.test(place) && { ownFolder: true as const }),
        };
      });
};

/** Which line of rules that were typed is not taken, and why; null where all are. */
function lineFault(error: z.ZodError | undefined): string | null {
  const issue = error?.issues[0];
  return issue ? `Line ${Number(issue.path[0]) + 1} ${issue.message}.` : null;
}

/** The rule of a loader's switch as it was typed; undefined where there is none. */
const switchOf = (said: Omit<Fields, 'title'>): Game['rules']['loaderSwitch'] =>
  asPath(said.switchFile) === ''
    ? undefined
    : { file: asPath(said.switchFile), form: said.switchForm, at: said.switchAt.trim(), on: said.switchOn };

function switchFault(said: Omit<Fields, 'title'>, part: 'at' | 'on'): string | null {
  const { error } = GameRulesSchema.shape.loaderSwitch.safeParse(switchOf(said));
  const issue = error?.issues.find(({ path }) => path[0] === part);
  return issue ? `It ${issue.message}.` : null;
}

/** The rule of a record as it was typed; undefined where there is none. What the form does not show stays. */
function recordOf(said: Omit<Fields, 'title'>, before: Game['rules']['record']): Game['rules']['record'] {
  if (asPath(said.recordFile) === '') return undefined;
  const [branch, branchCode] = [said.recordBranch.trim(), said.recordCode.trim()];
  return {
    ...(before?.build !== undefined && { build: before.build }),
    ...{ file: asPath(said.recordFile), form: said.recordForm, at: said.recordAt.trim() },
    ...{ stops: said.recordStops, goes: said.recordGoes },
    ...(branch !== '' && { branch }),
    ...(branchCode !== '' && { branchCode }),
  };
}

/** Why the rules do not take a part of a record that was typed; null where they do. */
function recordFault(said: Omit<Fields, 'title'>, part: 'file' | 'at' | 'stops' | 'goes'): string | null {
  const { error } = GameRulesSchema.shape.record.safeParse(recordOf(said, undefined));
  const issue = error?.issues.find(({ path }) => path[0] === part);
  return issue ? `It ${issue.message}.` : null;
}

/** A path as people type one, as the rules have it: `/` between its parts, none before or behind. */
export const asPath = (text: string): string => text.trim().replaceAll('\\', '/').replace(/\/+$/, '');
const lines = (text: string): string[] =>
  text
    .split('\n')
    .map(asPath)
    .filter((line) => line !== '');

/** Why a path is not taken; null for one that is. */
function pathFault(path: string): string | null {
  try {
    assertSafePath(path);
    return null;
  } catch (error) {
    if (!isFailure(error)) throw error;
    return failureWords(error).what;
  }
}

const optionalPath = (text: string): string | null => (asPath(text) === '' ? null : pathFault(asPath(text)));
const pathLines = (text: string): string | null =>
  lines(text)
    .map((line) => (isGlob(line) ? globFault(line) : pathFault(line)))
    .find((fault) => fault !== null) ?? null;

/** Why a pattern of paths is not taken; null for one that is. */
function globFault(glob: string): string | null {
  const { error } = PathOrGlobSchema.safeParse(glob);
  return error ? `${glob} ${error.issues[0]!.message}.` : null;
}

export const fieldsOf = ({ title, rules }: Pick<Game, 'title' | 'rules'>): Fields => {
  const own = (kind: OwnKind): string =>
    rules.own
      .filter((one) => one.kind === kind)
      .map(({ folder }) => folder)
      .join('\n');
  return {
    title,
    program: rules.program ?? '',
    modsFolder: rules.modsFolder ?? '',
    loadOrder: rules.loadOrder ?? '',
    ...{ saves: own('saves'), settings: own('settings'), content: own('content'), presets: own('presets') },
    layout: (rules.layout ?? [])
      .map(({ files, folder, ownFolder }) => `${files}: ${folder}${ownFolder ? ', own folder' : ''}`)
      .join('\n'),
    ...{ listOn: rules.listSyntax?.on ?? '', listOff: rules.listSyntax?.off ?? '' },
    listBetween: (rules.listSyntax?.between ?? '').replace(/\n$/, ''),
    listHead: (rules.listSyntax?.head ?? '').replace(/\n$/, ''),
    listTail: (rules.listSyntax?.tail ?? '').replace(/^\n|\n$/g, ''),
    fetchLine: rules.fetchLine ?? '',
    versions: (rules.versions ?? [])
      .map(({ file, pattern }) => (pattern === undefined ? file : `${file}: ${pattern}`))
      .join('\n'),
    ...{ logFile: rules.log?.file ?? '', logVersion: rules.log?.version ?? '', logUp: rules.log?.up ?? '' },
    ...{ logCrashed: rules.log?.crashed ?? '', logLoaded: rules.log?.loaded ?? '', logFailed: rules.log?.failed ?? '' },
    ...{ switchFile: rules.loaderSwitch?.file ?? '', switchForm: rules.loaderSwitch?.form ?? 'ini' },
    ...{ switchAt: rules.loaderSwitch?.at ?? '', switchOn: rules.loaderSwitch?.on ?? '' },
    ...{ recordFile: rules.record?.file ?? '', recordForm: rules.record?.form ?? 'json' },
    ...{
      recordAt: rules.record?.at ?? '',
      recordStops: rules.record?.stops ?? '',
      recordGoes: rules.record?.goes ?? '',
      recordBranch: rules.record?.branch ?? '',
      recordCode: rules.record?.branchCode ?? '',
    },
  };
};

/** Why what was typed is not taken, by field; null for what is. */
export const FAULTS: Partial<Record<keyof Fields, (value: string, said: Fields) => string | null>> = {
  title: (title) => (title.trim() === '' || title.length > 80 ? 'Type a title of at most 80 characters.' : null),
  program: optionalPath,
  modsFolder: optionalPath,
  loadOrder: optionalPath,
  saves: pathLines,
  settings: pathLines,
  content: pathLines,
  presets: pathLines,
  fetchLine: (line) => {
    const { error } = GameRulesSchema.shape.fetchLine.safeParse(line.trim() || undefined);
    return error ? `It ${error.issues[0]!.message}.` : null;
  },
  listOn: (_, said) => listFault(said, 'on'),
  listOff: (_, said) => listFault(said, 'off'),
  layout: (text) => lineFault(GameRulesSchema.shape.layout.safeParse(layoutOf(text)).error),
  versions: (text) => lineFault(GameRulesSchema.shape.versions.safeParse(versionsOf(text)).error),
  logFile: optionalPath,
  ...Object.fromEntries(LOG.map(({ field, rule }) => [field, (_: string, said: Fields) => logFault(said, rule)])),
  switchFile: optionalPath,
  switchAt: (_, said) => switchFault(said, 'at'),
  switchOn: (_, said) => switchFault(said, 'on'),
  recordFile: optionalPath,
  recordAt: (_, said) => recordFault(said, 'at'),
  recordStops: (_, said) => recordFault(said, 'stops'),
  recordGoes: (_, said) => recordFault(said, 'goes'),
};

/** What a game is by what was typed; what the form does not show of the rules stays as it was. */
export function gameOf(typed: Fields, game: Pick<Game, 'title' | 'rules'>): GameForm {
  const { title, ...said } = typed;
  const others: Game['rules'] = { ...game.rules };
  for (const { field } of PATHS) {
    delete others[field];
    if (asPath(said[field]) !== '') others[field] = asPath(said[field]);
  }
  delete others.fetchLine;
  if (said.fetchLine.trim() !== '') others.fetchLine = said.fetchLine.trim();
  const syntax = listOf(said);
  delete others.listSyntax;
  if (syntax) others.listSyntax = syntax;
  const layout = layoutOf(said.layout);
  delete others.layout;
  if (layout) others.layout = layout;
  const versions = versionsOf(said.versions);
  delete others.versions;
  if (versions) others.versions = versions;
  const log = logOf(said);
  delete others.log;
  if (log) others.log = log;
  const loaderSwitch = switchOf(said);
  delete others.loaderSwitch;
  if (loaderSwitch) others.loaderSwitch = loaderSwitch;
  const record = recordOf(said, game.rules.record);
  delete others.record;
  if (record) others.record = record;
  const { own: before } = game.rules;
  return {
    title: title.trim(),
    rules: {
      ...others,
      own: OWN.flatMap(({ kind, field }) =>
        lines(said[field]).map(
          (folder) => before.find((one) => one.folder === folder && one.kind === kind) ?? { folder, kind },
        ),
      ),
    },
  };
}

const RECORD_FIELDS = {
  at: 'recordAt',
  build: 'recordAt',
  branch: 'recordBranch',
  branchCode: 'recordCode',
} as const;

/** Why patterns that were typed are none, by field. What tells that is loaded when it is asked for. */
export async function patternErrors(game: GameForm): Promise<Partial<Record<keyof Fields, string>>> {
  const { patternFaults } = await import('#core/patterns');
  const errors: Partial<Record<keyof Fields, string>> = {};
  for (const { path, problem } of patternFaults(game.rules)) {
    const [part, name] = path;
    if (part === 'record') errors[RECORD_FIELDS[name as keyof typeof RECORD_FIELDS]] = `It ${problem}.`;
    else if (part === 'loaderSwitch') errors.switchAt = `It ${problem}.`;
    else if (part === 'versions') errors.versions = `Line ${Number(name) + 1} ${problem}.`;
    else if (part === 'log') errors[LOG.find(({ rule }) => rule === name)!.field] = `It ${problem}.`;
  }
  return errors;
}
