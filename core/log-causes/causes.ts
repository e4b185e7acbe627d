/*
 * Why a start went wrong, told by the lines of a log: by what loaders, engines and script hosts say in much the same words everywhere, and by
 * what is known of the mods and files of the game. A line in which nothing known is named is no finding.
 */

/** What a line tells of. */
export const CAUSES = [
  'requirement-missing',
  'wrong-version',
  'program-unknown',
  'file-missing',
  'file-twice',
  'error-in-mod',
  'list-empty',
  'loader-absent',
] as const;
export type Cause = (typeof CAUSES)[number];

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
  readonly absent: readonly Omit<NamedMod, 'paths'>[];
  readonly program?: string | undefined;
  /** The id of the mod that loads the others, where one of the folder does. */
  readonly loader?: string | undefined;
  /** Whether the game itself has a file at a path, in lower case. */
  readonly isVanilla: (path: string) => boolean;
}

export interface Finding {
  readonly cause: Cause;
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
}

/** What of a line is read. */
const LONGEST_LINE = 2000;
const MOST_FINDINGS = 200;
const MOST_UNUSUAL = 20;

/** The words that a cause is told in; the first that fits a line counts. */
const WORDS: readonly (readonly [Cause, RegExp])[] = [
  [
    'list-empty',
    /\b(?:no|0|zero) (?:mods?|plugins?|scripts?)\b.{0,40}\b(?:listed|in the list|to load|enabled|found|active)\b|\b(?:mod|load|plugin)[ -]?(?:list|order)\b.{0,20}\bempty\b/i,
  ],
  [
    'program-unknown',
    /\b(?:unknown|unrecogni[sz]ed|unsupported|unexpected)\b.{0,30}\b(?:program|executable|binary|checksum|hash|digest)\b|\b(?:checksum|hash|digest)\b.{0,60}\b(?:unknown|not (?:known|recogni[sz]ed|supported)|mismatch|differs)\b|\b(?:program|executable)\b.{0,60}\bnot (?:known|recogni[sz]ed|supported)\b/i,
  ],
  [
    'requirement-missing',
    /\b(?:requires?|needs?|depends? on|dependency|dependencies|required by|prerequisite)\b.{0,120}\b(?:missing|absent|not (?:found|present|installed|loaded|available|satisfied|met)|unmet|unsatisfied|cannot be (?:found|resolved))\b|\b(?:missing|unmet|unsatisfied|unresolved) (?:dependency|dependencies|requirement|requirements|prerequisite)\b|\b(?:requires?|needs?|depends? on)\b/i,
  ],
  [
    'wrong-version',
    /\bversions?\b.{0,60}\b(?:mismatch|differs?|expected|incompatible|unsupported|too (?:old|new)|wrong)\b|\b(?:incompatible|mismatched|unsupported|wrong|outdated)\b.{0,60}\b(?:version|build|release|api)\b|\b(?:built|made|compiled|written) (?:for|against)\b.{0,60}\b(?:not|but|another|older|newer|different)\b|\bnot (?:compatible|made for|built for)\b/i,
  ],
  [
    'file-twice',
    /\b(?:duplicate|already (?:loaded|registered|defined|provided|exists|taken)|(?:loaded|defined|registered|provided) twice|overrid(?:es|den|ing)|overwrit(?:es|ten|ing)|conflicts? with)\b/i,
  ],
  [
    'file-missing',
    /\b(?:cannot|can't|could not|couldn't|unable to|failed to|failure to) (?:open|find|load|read|locate|access)\b|\bno such file\b|\b(?:missing|not found|does not exist)\b/i,
  ],
  [
    'error-in-mod',
    /\b(?:error|exception|traceback|crash(?:ed)?|fatal|panic|assert(?:ion)?|access violation|segmentation fault|null (?:reference|pointer)|undefined|threw|aborted|failed)\b/i,
  ],
];

/** One of the words that all of these have: most lines have none, and are not looked at any further. */
const ANY =
  /requir|need|depend|prerequisite|missing|unmet|unsatisf|version|compatible|built|made|compiled|written for|duplicate|already|twice|overrid|overwrit|conflict|cannot|can't|could ?n[o']t|unable|fail|no such|not (?:found|known|recogni|supported)|does not exist|error|exception|traceback|crash|fatal|panic|assert|violation|fault|undefined|threw|abort|checksum|hash|digest|unknown|unrecogni|unsupported|unexpected|mismatch|outdated|empty|null|(?:no|0|zero) (?:mod|plugin|script)/i;

/** Lines that say that all is well, though they have such words in them. */
const FINE =
  /\b(?:0|no) (?:errors?|failures?|conflicts?|warnings?)\b|\bwithout (?:errors?|conflicts?)\b|(?<!\bnot |n't )\b(?:ok|succeeded|successfully|satisfied|recovered)\b/i;

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

/** What a mod goes by in a log. */
interface Called {
  readonly id: string;
  readonly names: readonly string[];
}

const plain = (text: string): string => text.toLowerCase().replaceAll('\\', '/');

/** Whether a name stands in a text by itself, and not in a longer word. */
function hasName(text: string, name: string): number {
  for (let at = text.indexOf(name); at >= 0; at = text.indexOf(name, at + 1)) {
    const [before, behind] = [text[at - 1], text[at + name.length]];
    if (!/[a-z0-9]/.test(before ?? '') && !/[a-z0-9]/.test(behind ?? '')) return at;
  }
  return -1;
}

const calledOf = ({ id, name }: Pick<NamedMod, 'id' | 'name'>): Called => ({
  id,
  names: [...new Set([plain(id), plain(name)])].filter((one) => one.length > 2),
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
  #lines = 0;
  #hasLoader = false;

  /** @param good the last log of a start that went well */
  constructor(known: KnownToLog, good?: string) {
    this.#known = known;
    this.#present = known.mods.map(calledOf);
    this.#absent = known.absent.map(calledOf);
    for (const { id, paths } of known.mods)
      for (const path of paths.map(plain)) {
        this.#owners.set(path, id);
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
    if (!ANY.test(text) || FINE.test(text)) return;
    for (const [cause, words] of WORDS) {
      const found = words.test(text) ? this.#read(cause, said) : undefined;
      if (!found) continue;
      this.#note({ cause, ...found, line: this.#lines, text });
      return;
    }
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
    return rawPaths(said).map((raw) => {
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
    });
  }

  /** What is known of a path, or of the end of one. */
  #ofPath(path: string): PathIn | undefined {
    const owner = this.#owners.get(path);
    if (owner !== undefined) return { path, owner, isVanilla: false };
    if (this.#known.isVanilla(path)) return { path, owner: undefined, isVanilla: true };
    if (!path.includes('/')) return undefined;
    const ends = this.#pathsByName.get(path.slice(path.lastIndexOf('/') + 1)) ?? [];
    const whole = ends.find((one) => one.endsWith(`/${path}`));
    if (whole !== undefined) return { path: whole, owner: this.#owners.get(whole), isVanilla: false };
    return undefined;
  }

  #read(cause: Cause, said: string): Pick<Finding, 'mod' | 'other' | 'path'> | undefined {
    const nothing = { mod: undefined, other: undefined, path: undefined };
    const paths = this.#pathsIn(said);
    const owned = paths.find(({ owner }) => owner !== undefined);
    const named = this.#namesIn(said, this.#present);
    const [first, second] = named;
    switch (cause) {
      case 'list-empty':
        return nothing;
      case 'program-unknown': {
        const program = this.#known.program && plain(this.#known.program);
        const isNamed = program !== undefined && (said.includes(program) || said.includes(program.split('/').at(-1)!));
        return isNamed || /\b(?:program|executable)\b/.test(said)
          ? { ...nothing, mod: this.#known.loader, path: isNamed ? program : undefined }
          : undefined;
      }
      case 'requirement-missing': {
        const missing = this.#namesIn(said, this.#absent)[0];
        // Without the word that something is missing, only what is not there can be what is missing.
        const says =
          /missing|absent|not (?:found|present|installed|loaded|available|satisfied|met)|unmet|unsatisfied|unresolved|cannot be/.test(
            said,
          );
        if (missing !== undefined) return { ...nothing, mod: first ?? owned?.owner, other: missing };
        return says && first !== undefined ? { ...nothing, mod: first, other: second } : undefined;
      }
      case 'wrong-version':
        return first !== undefined || owned ? { ...nothing, mod: first ?? owned!.owner, other: second } : undefined;
      case 'file-twice': {
        const [path] = paths;
        return second !== undefined || (path && first !== undefined)
          ? { mod: first, other: second ?? path?.owner, path: path?.path }
          : undefined;
      }
      case 'file-missing': {
        const path = owned ?? paths.find(({ isVanilla }) => isVanilla) ?? paths[0];
        if (!path) return undefined;
        return { ...nothing, mod: path.owner ?? first, path: path.path };
      }
      case 'error-in-mod':
        return owned || first !== undefined ? { ...nothing, mod: owned?.owner ?? first, path: owned?.path } : undefined;
      case 'loader-absent':
        return undefined;
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
    if (loader !== undefined && !this.#hasLoader && this.#lines > 0)
      findings.push({
        cause: 'loader-absent',
        mod: loader,
        other: undefined,
        path: undefined,
        line: this.#lines,
        text: '',
        count: 1,
      });
    return { findings, lines: this.#lines, unusual: findings.length > 0 ? [] : this.#unusual };
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
export function causesIn(log: string, known: KnownToLog, good?: string): LogCauses {
  const reader = new CauseReader(known, good);
  const cutter = new LineCutter((line) => reader.line(line));
  cutter.add(log);
  cutter.end();
  return reader.end();
}
