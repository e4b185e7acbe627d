import type { CauseRule, LogCause } from '#core/builds';
import { CAUSE_PARTS, compile } from '#core/patterns';

import {
  ORDER,
  suspicious,
  tellsEmptyList,
  tellsError,
  tellsMissingFile,
  tellsProgram,
  tellsRequirement,
  tellsTwice,
  tellsVersion,
} from './words';

/*
 * Why a start went wrong, told by the lines of a log: by what loaders, engines and script hosts say in much the same words everywhere, and by
 * what is known of the mods and files of the game. A line in which nothing known is named is no finding.
 */

/** A mod as a log may name it. */
export interface NamedMod {
  readonly id: string;
  readonly name: string;
  /** Its files in the game's folder. */
  readonly paths: readonly string[];
}

export interface KnownToLog {
  readonly mods: readonly NamedMod[];
  /** Mods that are known and not in the folder: what is required may be one of them. */
  readonly absent: readonly NamedMod[];
  readonly program?: string | undefined;
  /** The id of the mod that loads the others, where one of the folder does. */
  readonly loader?: string | undefined;
  /** Whether the game itself has a file at a path, in lower case. */
  readonly isVanilla: (path: string) => boolean;
  /** Lines in the words of the game and its loader; they count before those that are common everywhere. */
  readonly rules?: readonly CauseRule[];
  /** A line that tells of a mod that was not loaded, its name in parentheses. */
  readonly failed?: string | undefined;
}

/** How long lines are held against the game's own patterns: these come with games, which are handed on. */
export interface PatternTime {
  readonly now: () => number;
  /** In the unit of `now`. */
  readonly most: number;
}

export interface Finding {
  readonly cause: LogCause;
  /** The mod that it is about; undefined for the game, its list of mods, or a file of nobody. */
  readonly mod: string | undefined;
  /** Another mod: what is required, or who has the same file. */
  readonly other: string | undefined;
  readonly path: string | undefined;
  /** The first line that tells it, from 1, and how many do. */
  readonly line: number;
  readonly text: string;
  readonly count: number;
}

export interface LogCauses {
  /** In the order of the log. */
  readonly findings: readonly Finding[];
  readonly lines: number;
  /** Lines that the last good log has not, in the order of the log; only where nothing was found. */
  readonly unusual: readonly { readonly line: number; readonly text: string }[];
  /** The last line that was held against the game's own patterns, where they took too long for all. */
  readonly ruledUntil?: number;
}

/** What of a line is read. */
const LONGEST_LINE = 2000;
const MOST_FINDINGS = 200;
const MOST_UNUSUAL = 20;

/** What parts a line into pieces of which each has one path at the most, with words around it. */
const BETWEEN = /["'<>|:;,\t=[\]{}]+/;
/** The end of a file's name. */
const ENDING = /\.\w{1,8}(?=\s|$)/g;
/** A name alone counts only where it looks like a file's. */
const BARE = /[\w()+-]{1,100}\.(?:csv|json|xml|ini|lua|js|py|dll|so|lib|pak|zip|dat|tex|snd|map)\b/;
/** Characters of a path that are looked at, from its end. */
const LONGEST_PATH = 300;

/** Paths in a line, each with words before it that may be part of it. Takes time by the length of the line. */
const rawPaths = (said: string): string[] =>
  said.split(BETWEEN).flatMap((piece) => {
    if (!piece.includes('/')) return BARE.exec(piece)?.[0] ?? [];
    const last = [...piece.matchAll(ENDING)].at(-1);
    return last
      ? [
          piece
            .slice(0, last.index + last[0].length)
            .trim()
            .slice(-LONGEST_PATH),
        ]
      : [];
  });

/** A path in a line, and whose it is. */
interface PathIn {
  readonly path: string;
  readonly owner: string | undefined;
  readonly isVanilla: boolean;
}

/** What a line names. */
interface ReadLine {
  readonly text: string;
  readonly paths: readonly PathIn[];
  /** Mods that are there, and that are known and are not, in the order of the line. */
  readonly present: readonly string[];
  readonly absent: readonly string[];
  /** The first path that is a mod's. */
  readonly owned: PathIn | undefined;
  readonly program: string | undefined;
}

/** What a mod goes by in a log. */
interface Called {
  readonly id: string;
  readonly names: readonly string[];
}

const plain = (text: string): string => text.toLowerCase().replaceAll('\\', '/').replaceAll('’', "'");

/** Whether a name stands in a text by itself, and not in a longer word. */
function hasName(text: string, name: string): number {
  for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) {
    const [before, behind] = [text[at - 1], text[at + name.length]];
    if (!/[a-z0-9]/.test(before ?? '') && !/[a-z0-9]/.test(behind ?? '')) return at;
  }
  return -1;
}

/** Names as they are written with other signs between their words, or none. */
const spellings = (name: string): string[] => {
  const words = name.split(/[ _-]+/);
  return words.length < 2 ? [name] : [name, ...[' ', '_', '-', ''].map((sign) => words.join(sign))];
};

const calledOf = ({ id, name }: Pick<NamedMod, 'id' | 'name'>): Called => ({
  id,
  names: [...new Set([plain(id), plain(name)].flatMap(spellings))].filter((one) => one.length > 2),
});

/** What of a line stays the same from start to start: times, numbers and addresses do not. */
const shapeOf = (line: string): string => line.replace(/0x[0-9a-f]+|[0-9a-f]{8,}|\d+/gi, '#').trim();

/** Reads a log line by line; holds nothing of it but what it has found. */
export class CauseReader {
  readonly #known: KnownToLog;
  readonly #present: readonly Called[];
  readonly #absent: readonly Called[];
  readonly #owners = new Map<string, string>();
  readonly #pathsByName = new Map<string, string[]>();
  readonly #findings = new Map<string, { -readonly [K in keyof Finding]: Finding[K] }>();
  readonly #usual: ReadonlySet<string> | undefined;
  readonly #unusual: { line: number; text: string }[] = [];
  readonly #rules: readonly { readonly cause: LogCause; readonly line: ReturnType<typeof compile> }[];
  readonly #failed: ReturnType<typeof compile> | undefined;
  #lines = 0;
  #hasLoader = false;
  #taken = 0;
  #ruledUntil: number | undefined;

  /** @param good the last log of a start that went well */
  constructor(
    known: KnownToLog,
    good?: string,
    private readonly time?: PatternTime,
  ) {
    this.#known = known;
    this.#rules = (known.rules ?? []).map(({ cause, line }) => ({ cause, line: compile(line) }));
    this.#failed = known.failed === undefined ? undefined : compile(known.failed);
    this.#present = known.mods.map(calledOf);
    this.#absent = known.absent.map(calledOf);
    for (const { id, paths } of known.mods) for (const path of paths.map(plain)) this.#owners.set(path, id);
    // What several mods call a file tells of none of them, whether they are there or not.
    for (const { paths } of [...known.mods, ...known.absent])
      for (const path of paths.map(plain)) {
        const name = path.slice(path.lastIndexOf('/') + 1);
        const others = this.#pathsByName.get(name);
        if (others) others.push(path);
        else this.#pathsByName.set(name, [path]);
      }
    this.#usual =
      good === undefined ? undefined : new Set(good.split(/\r?\n/).map((line) => shapeOf(line.slice(0, LONGEST_LINE))));
  }

  line(whole: string): void {
    this.#lines += 1;
    const text = whole.slice(0, LONGEST_LINE).trimEnd();
    if (text === '') return;
    const said = plain(text);
    const { loader } = this.#known;
    if (loader !== undefined && !this.#hasLoader)
      this.#hasLoader =
        this.#namesIn(
          said,
          this.#present.filter(({ id }) => id === loader),
        ).length > 0;
    if (this.#usual && !this.#usual.has(shapeOf(text)) && this.#unusual.length < MOST_UNUSUAL)
      this.#unusual.push({ line: this.#lines, text });
    if (!this.#byRules(text) && !this.#byWords(text)) this.#byFailure(text);
  }

  /** @returns whether the line is in words that are common everywhere */
  #byWords(text: string): boolean {
    const left = suspicious(text);
    if (left === undefined) return false;
    const line = this.#lineOf(left);
    for (const cause of ORDER) {
      const found = this.#read(cause, line);
      if (!found) continue;
      this.#note({ cause, ...found, line: this.#lines, text });
      return true;
    }
    return false;
  }

  /** What patterns of the game's own find, as long as they take no more than their time. */
  #timed<T>(find: () => T | undefined): T | undefined {
    if (this.#ruledUntil !== undefined) return undefined;
    if (!this.time) return find();
    const began = this.time.now();
    const found = find();
    this.#taken += this.time.now() - began;
    if (this.#taken > this.time.most) this.#ruledUntil = this.#lines;
    return found;
  }

  /** @returns whether the line is in the game's own words for what is wrong */
  #byRules(text: string): boolean {
    if (this.#rules.length === 0) return false;
    const found = this.#timed(() => {
      for (const { cause, line } of this.#rules) {
        const matcher = line.matcher(text);
        if (matcher.find()) return { cause, matcher, named: line.namedGroups() };
      }
      return undefined;
    });
    if (!found) return false;
    const { cause, matcher, named } = found;
    const [mod, other, file] = CAUSE_PARTS.map((part) =>
      part in named ? (matcher.group(part)?.trim() ?? '') : '',
    ) as [string, string, string];
    const path = file === '' ? undefined : this.#pathOf(plain(file));
    const subject = this.#named(mod) ?? path?.owner;
    this.#note({
      ...{ cause, mod: subject ?? (cause === 'loader-absent' ? this.#known.loader : undefined) },
      ...{ other: this.#named(other), path: path?.path, line: this.#lines, text },
    });
    return true;
  }

  /** A line by which the game itself tells that a mod was not loaded, for no reason that could be made out. */
  #byFailure(text: string): void {
    const failed = this.#failed;
    if (!failed) return;
    const matcher = this.#timed(() => {
      const all = failed.matcher(text);
      return all.find() ? all : undefined;
    });
    const mod = matcher && this.#named(matcher.group(1) ?? '');
    if (mod !== undefined)
      this.#note({ cause: 'error-in-mod', mod, other: undefined, path: undefined, line: this.#lines, text });
  }

  /** The mod that a name is of, whether it is there or not. */
  #named(name: string): string | undefined {
    return this.#namesIn(plain(name), [...this.#present, ...this.#absent])[0];
  }

  /** Mods that a text names, in its order; of two at one place the longer name. */
  #namesIn(said: string, some: readonly Called[]): string[] {
    const found: { id: string; at: number; length: number }[] = [];
    for (const { id, names } of some)
      for (const name of names) {
        const at = hasName(said, name);
        if (at >= 0) found.push({ id, at, length: name.length });
      }
    const clear = found.filter(
      (one) =>
        !found.some(
          (other) =>
            other.id !== one.id &&
            other.at <= one.at &&
            other.at + other.length >= one.at + one.length &&
            other.length > one.length,
        ),
    );
    return [...new Set(clear.toSorted((a, b) => a.at - b.at).map(({ id }) => id))];
  }

  /** Paths that a text names, and whose they are. */
  #pathsIn(said: string): PathIn[] {
    return rawPaths(said).map((raw) => this.#pathOf(raw));
  }

  /** A path that may have words before it, or the way to the game's folder. */
  #pathOf(raw: string): PathIn {
    const whole = raw.replace(/^\.?\//, '');
    // A log may name a file by its whole path on the disk, or from the mods' folder on, with words before it.
    for (let from = 0; from >= 0;) {
      const found = this.#ofPath(whole.slice(from));
      if (found) return found;
      const next = whole.slice(from).search(/[ /]/);
      from = next < 0 ? -1 : from + next + 1;
    }
    const words = whole.lastIndexOf(' ', whole.search(/\/|$/));
    return { path: whole.slice(words + 1), owner: undefined, isVanilla: false };
  }

  /** What is known of a path, or of the end of one. */
  #ofPath(path: string): PathIn | undefined {
    const owner = this.#owners.get(path);
    if (owner !== undefined) return { path, owner, isVanilla: false };
    if (this.#known.isVanilla(path)) return { path, owner: undefined, isVanilla: true };
    const ends = this.#pathsByName.get(path.slice(path.lastIndexOf('/') + 1)) ?? [];
    // A name alone is the file's that no other one has it of.
    const whole = path.includes('/') || ends.length === 1 ? ends.find((one) => one.endsWith(`/${path}`)) : undefined;
    if (whole !== undefined) return { path: whole, owner: this.#owners.get(whole), isVanilla: false };
    return undefined;
  }

  #lineOf(text: string): ReadLine {
    const said = plain(text);
    const paths = this.#pathsIn(said);
    const present = this.#namesIn(said, this.#present);
    const { loader } = this.#known;
    const program = this.#known.program === undefined ? undefined : plain(this.#known.program);
    return {
      // The loader speaks of others: where one is named beside it, that one is meant.
      ...{ text, paths, present: present.toSorted((a, b) => Number(a === loader) - Number(b === loader)) },
      absent: this.#namesIn(said, this.#absent),
      owned: paths.find(({ owner }) => owner !== undefined),
      program: program !== undefined && hasName(said, program.split('/').at(-1)!) >= 0 ? program : undefined,
    };
  }

  #read(
    cause: (typeof ORDER)[number],
    { text, paths, present, absent, owned, program }: ReadLine,
  ): Pick<Finding, 'mod' | 'other' | 'path'> | undefined {
    const nothing = { mod: undefined, other: undefined, path: undefined };
    const [first, second] = present;
    const isLoader = first !== undefined && first === this.#known.loader;
    const who = isLoader ? (owned?.owner ?? first) : (first ?? owned?.owner);
    // No mod is named but the loader, which may speak of itself.
    const isAlone = who === undefined || who === this.#known.loader;
    switch (cause) {
      case 'list-empty':
        return isAlone && tellsEmptyList(text) ? nothing : undefined;
      case 'program-unknown':
        return isAlone && tellsProgram(text, program !== undefined)
          ? { ...nothing, mod: this.#known.loader, path: program }
          : undefined;
      case 'requirement-missing': {
        const [missing] = absent;
        if (!tellsRequirement(text, missing !== undefined, who !== undefined)) return undefined;
        if (missing !== undefined) return { ...nothing, mod: who, other: missing };
        return first === undefined ? undefined : { ...nothing, mod: first, other: second };
      }
      case 'wrong-version':
        return who !== undefined && tellsVersion(text) ? { ...nothing, mod: who, other: second } : undefined;
      case 'file-twice': {
        if (!tellsTwice(text)) return undefined;
        const all = [...new Set([...present, ...paths.flatMap(({ owner }) => owner ?? [])])];
        if (all.length < 2) return undefined;
        return { mod: all[0], other: all[1], path: paths[0]?.path };
      }
      case 'file-missing': {
        const path = owned ?? paths.find(({ isVanilla }) => isVanilla) ?? paths[0];
        if (!path || !tellsMissingFile(text)) return undefined;
        return { ...nothing, mod: path.owner ?? first, path: path.path };
      }
      case 'error-in-mod':
        return who !== undefined && tellsError(text)
          ? { ...nothing, mod: owned?.owner ?? who, path: owned?.path }
          : undefined;
    }
  }

  #note(finding: Omit<Finding, 'count'>): void {
    const key = JSON.stringify([finding.cause, finding.mod, finding.other, finding.path]);
    const known = this.#findings.get(key);
    if (known) known.count += 1;
    else if (this.#findings.size < MOST_FINDINGS) this.#findings.set(key, { ...finding, count: 1 });
  }

  end(): LogCauses {
    const { loader } = this.#known;
    const findings: Finding[] = [...this.#findings.values()];
    const isTold = findings.some(({ cause }) => cause === 'loader-absent');
    if (loader !== undefined && !this.#hasLoader && this.#lines > 0 && !isTold)
      findings.push({
        cause: 'loader-absent',
        mod: loader,
        other: undefined,
        path: undefined,
        line: this.#lines,
        text: '',
        count: 1,
      });
    return {
      ...{ findings, lines: this.#lines, unusual: findings.length > 0 ? [] : this.#unusual },
      ...(this.#ruledUntil !== undefined && { ruledUntil: this.#ruledUntil }),
    };
  }
}

/** Cuts a text that comes in pieces into lines; of a line that does not end only the beginning is held. */
export class LineCutter {
  #rest = '';

  constructor(private readonly take: (line: string) => void) {}

  add(text: string): void {
    let from = 0;
    for (let end = text.indexOf('\n'); end >= 0; end = text.indexOf('\n', from)) {
      const line = this.#rest + text.slice(from, Math.min(end, from + LONGEST_LINE));
      this.take(line.endsWith('\r') ? line.slice(0, -1) : line);
      this.#rest = '';
      from = end + 1;
    }
    if (this.#rest.length < LONGEST_LINE) this.#rest += text.slice(from, from + LONGEST_LINE);
  }

  end(): void {
    if (this.#rest !== '') this.take(this.#rest);
    this.#rest = '';
  }
}

/** What a whole log tells. */
export function causesIn(log: string, known: KnownToLog, good?: string, time?: PatternTime): LogCauses {
  const reader = new CauseReader(known, good, time);
  const cutter = new LineCutter((line) => reader.line(line));
  cutter.add(log);
  cutter.end();
  return reader.end();
}
