import type { LogCause } from '#core/builds';

/*
 * The words in which loaders, engines and script hosts tell what is wrong. Each cause has words that its lines have to have; who is meant, and
 * whether the line is about that at all, is told by the mods and files that it names. All of them take time by the length of the line.
 */

/** Any of some, parted by ` | ` or the ends of lines; each may be a pattern. */
const parted = ({ raw }: TemplateStringsArray): string =>
  raw[0]!
    .trim()
    .split(/\s*\n\s*|\s\|\s/)
    .join('|');
const words = (some: TemplateStringsArray): RegExp => new RegExp(`\\b(?:${parted(some)})\\b`, 'i');
const stems = (some: TemplateStringsArray): RegExp => new RegExp(parted(some), 'i');
const either = (...some: readonly RegExp[]): RegExp => new RegExp(some.map(({ source }) => source).join('|'), 'i');

/** Words that tell of nothing wrong, though they are made of such that do: they are taken out before a line is read. */
const HARMLESS = new RegExp(
  words`
  (?:0|no|without(?: any)?) (?:\w+ )?(?:errors?|failures?|conflicts?|warnings?|exceptions?|crash(?:es)?|problems?|duplicates?|failed|missing|skipped|broken|rejected|invalid|lost)
  (?:error|crash|exception|fault|fail|conflict|duplicate|missing)[- ]?(?:report\w*|handl\w*|hooks?|guards?|loggers?|logging|catch\w*|safe|over|tolerant|pages?|screens?|check\w*|detect\w*|resolution (?:ok|done))
  fail(?:s|ed|ing)? (?:over|back) | null (?:device|renderer|audio|backend|driver) | nothing (?:is )?missing
`,
  'gi',
);

/** Lines that say that all is well in the end, or that something may be missing. */
const FINE = either(
  words`
  if (?:present|installed|available|there) | is not an error | (?:ignor(?:e|ed|ing)) (?:this|it)
`,
  /(?<!\bnot |n't |\bun)\b(?:ok|okay|succeeded|successful(?:ly)?|satisfied|recovered|resolved|optional(?:ly)?)\b/i,
);

/** The beginnings of words of which every line that tells something has one; most lines have none, and are looked at no further. */
const STEMS = stems`
  requir | need | depend | prerequisite | miss | absent | unmet | satisf | resol | provid | install | lack | without | avail
  version | compat | built | made | compil | outdated | obsolete | out of date | too (?:old|new) | support | expect | mismatch
  api\b | duplicat | already | twice | both | again | hid(?:es|den) | collid | collision | clash | conflict | overrid | overwrit
  redefin | shadow | notfound | cannot | can't | could ?n[o']t | could not | unable | fail | no such | not\b | n't\b | nothing
  error | exception | traceback | crash | fatal | panic | assert | violat | fault | undefined | threw | throw | abort | checksum
  hash | digest | unknown | unrecogni | unexpected | differ | empty | null | invalid | syntax | parse | parsing | range
  overflow | illegal | deprecat | import | request | wait | never | want | link | enoent | fight | compet | ambig | candidate
  stop | respond | blank | changed | \(0\) | : ?0$ | (?:game|engine) (?:is|has) | \bmin | target | kill | stuck | hang | hung
  written | neither | update | nowhere | malformed | too long | longer | division | divide | segfault | sigsegv | 0xc0 | raised | none\b | must | manifest | unhandled
  tim(?:ed )?out | refus | reject | corrupt | truncat | damaged | unreadable | (?:\bno|\b0|zero)\s | \bnil\b | \bbad\b
`;

/** The time at which a line was written, with what stands around it: its numbers are of nothing else. */
const STAMP = /^[\s[(<]*\d[\d:.,/TZ+-]{3,}(?: \d[\d:.,+-]{3,}Z?)?[\s\])>|]*/;

/** @returns the line without its time, and what is harmless in it; undefined where it tells of nothing wrong */
export function suspicious(text: string): string | undefined {
  if (!STEMS.test(text) && !text.includes('’')) return undefined;
  const left = text.replaceAll('’', "'").replace(STAMP, '').replace(HARMLESS, ' ');
  return FINE.test(left) ? undefined : left;
}

const NEEDS = words`
  requir(?:es?|ed|ing|ements?) | needs? | needed | depend(?:s|ed|ing|enc(?:y|ies)|ent)? | prerequisites?
`;
const NOT_THERE = words`
  missing | absent | lack(?:s|ing)? | unavailable | unmet | unsatisfied | unresolved | unknown
  (?:not|n't|isn't|wasn't) (?:\w+ )?(?:found|present|installed|loaded|available|satisfied|met|there|resolved|enabled|provided|active)
  no (?:such|provider|match)
  (?:cannot|can't|could not|couldn't|failed to|unable to) (?:be )?(?:find|found|resolved?|satisf(?:y|ied)|load(?:ed)?|locate)
  please (?:install|enable|add) | nowhere
`;
/** Words that say that something is wrong with what is not there, of whatever kind. */
const AMISS = new RegExp(
  `${NEEDS.source}|${NOT_THERE.source}|\\b(?:without|fail(?:s|ed|ure)?|cannot|can't|could not|couldn't|unable|error|no|must|first|before|never|wait\\w*|wants?|requested|import\\w*)\\b`,
  'i',
);

/**
 * Whether a line tells that a mod needs what is not there.
 * @param absent it names a mod that is known and not there
 * @param present it names one that is there: beside that, what is not there has hardly any other business
 */
export const tellsRequirement = (text: string, absent: boolean, present: boolean): boolean => {
  if (absent) return present ? AMISS.test(text) : NEEDS.test(text) || NOT_THERE.test(text);
  return NEEDS.test(text) && NOT_THERE.test(text);
};

const VERSION_WORD = words`
  \w*versions? | builds? | releases? | api | interface | abi | revision
`;
const VERSION = either(VERSION_WORD, words`level | game | engine | \d+(?:\.\d+)* | 0x[0-9a-f]+`);
const STALE = words`
  outdated | obsolete | deprecated | out of date | incompatible | not compatible | too (?:old|new) | (?:older|newer) than
  needs? (?:an )?updat(?:e|ing) | wrong version | no longer (?:works|supported|compatible)
`;
const UNFIT = either(
  words`
  (?:un|not )support(?:ed|s)? | mis-?match(?:ed)? | wrong | differs? | different | another | unexpected | check failed
`,
  /\bfor an? (?:older|newer|earlier|later|other) /i,
);
const MADE = words`
  made | built | build | compiled | written | meant | intended | designed | targets? | targeted | supports? | expects?
  expected | want(?:s|ed)? | linked | requires? | needs? | for | min\w* | max\w* | at (?:least|most)
`;
/** What is, against what was expected. */
const CONTRAST = either(
  words`
  but | got | found | have | has | this is | (?:the )?(?:game|engine|host|program) (?:is|has|at) | offered | you (?:have|run)
  (?:is )?running | instead | not | only | actual(?:ly)? | current(?:ly)? | up to | refus\w* | reject\w* | cannot | can't
  won't | fail\w* | disabled | skipped
`,
  /[,;(] ?(?:the )?(?:game|engine|host|program) v?\d/i,
);

export const tellsVersion = (text: string): boolean =>
  STALE.test(text) ||
  (VERSION_WORD.test(text) && UNFIT.test(text)) ||
  (VERSION.test(text) && MADE.test(text) && CONTRAST.test(text.replace(MADE, ' ')));

const PROGRAM = words`
  checksum | hash | digest | crc | signature | executable | binary | program | build | version | table | hook\w*
`;
const NOT_KNOWN = words`
  never | neither | un(?:known|recogni[sz]ed|supported|expected|listed) | not | n't
  no (?:match|entry|table|records?|offsets?|address\w*|data|support) | mismatch | differs? | different | altered | modified
  patched | invalid | wrong | changed | fail\w* | refus\w*
`;
/** @param named whether the line names the game's program */
export const tellsProgram = (text: string, named: boolean): boolean =>
  NOT_KNOWN.test(text) &&
  (named
    ? PROGRAM.test(text) || /\b(?:known|recogni[sz]ed|supported)\b/i.test(text)
    : /\b(?:program|executable|binary)\b/i.test(text)) &&
  !/\bnot (?:found|present|there)\b|\bno such\b/i.test(text);

const NO_FILE = either(
  words`
  (?:cannot|can't|could not|couldn't|unable to|fail(?:ed|ure|s)? (?:to|in|on|while)|errors? (?:while|on|in|when))\b.{0,40}\b(?:open|find|load|read|locate|access(?! violation)|stat|resolve|import|mount)(?:ed|ing)?
  (?:open|find|load|read|locate|access(?! violation)|stat|import|mount)(?:ed|ing)?\b.{0,200}\b(?:failed|failure)
  (?:cannot|can't|could not|couldn't) be (?:opened|found|loaded|read|located|accessed|mounted)
  (?:read|i/?o|load) (?:errors?|failure) | no (?:such )?(?:file|path|directory) | not found | missing | absent | unavailable | unreadable | enoent
  (?:does|did)(?: not|n't) exist | corrupt(?:ed)? | truncated | damaged | unexpected end of (?:file|data)
`,
  /notfound/i,
);
/** Words of what went wrong inside a file that is there. */
const INSIDE = either(
  words`
  syntax | pars(?:e|er|ing) | exception | traceback | nil | null | undefined | out of range | overflow | stack | assert\w*
  threw | line \d+
`,
  /\.\w{1,8}:\d+/i,
);
export const tellsMissingFile = (text: string): boolean => NO_FILE.test(text) && !INSIDE.test(text);

const TWICE = words`
  duplicate[sd]? | twice | both | collid\w* | collision | clash\w* | conflict(?:s|ed|ing)? | redefin\w* | shadow(?:s|ed|ing)?
  already (?:loaded|registered|defined|provided|exists|taken|in use|present|claimed|declared) | again | hid(?:es|den|ing)
  already \w+ by | fight\w* | compet\w* | ambiguous | candidates | (?:two|several) (?:mods|plug-?ins)
  same (?:id|key|file|name|entry|path|slot) | overwrit\w* | overrid\w*
`;
export const tellsTwice = (text: string): boolean => TWICE.test(text);

const THINGS = '(?:mods?|plug-?ins?|add-?ons?|scripts?|packages?|modules?|extensions?)';
const NONE_OF = new RegExp(`\\b(?:no|0|zero|without(?: any)?)(?: \\w+){0,2}? ${THINGS}\\b`, 'i');
/** What is done to mods that are there. */
const DONE = words`
  fail\w* | with errors? | conflict\w* | chang\w* | updates? | outdated | missing | compile | patch | need\w* | requir\w* | left
  skip\w* | disabled | removed | other | more | of
`;
const THERE = words`
  list(?:ed)? | load\w* | enabled | active | found | installed | present | start\w* | run | order | configured | detected
  with(?:out)? | selected | specified
`;
const EMPTY_LIST = either(
  words`
  nothing to load
  (?:mods?|load|plug-?ins?|add-?ons?|scripts?)[ -]?(?:list|order|file)\b.{0,25}\b(?:empty|blank|nothing|(?:no|0) entries)
  empty (?:mods?|load|plug-?ins?|add-?ons?)[ -]?(?:list|order)
`,
  /\b(?:mods|plug-?ins|add-?ons)[^:(]{0,20}(?:: *|\()(?:none|0|\(none\)|\[\])\)?:?$/i,
);
export const tellsEmptyList = (text: string): boolean =>
  EMPTY_LIST.test(text) || (NONE_OF.test(text) && THERE.test(text) && !DONE.test(text));

const ERROR = words`
  errors? | err | exceptions? | \w*(?:error|exception|reference) | traceback | crash(?:ed|es)? | fatal | panic(?:ked)?
  assert(?:ion)?s? | violation | fault(?:ed)? | nil | null | undefined | threw | throws? | thrown | abort(?:ed|s)?
  fail(?:s|ed|ure|ures)? | syntax | invalid | illegal | unhandled | out of (?:range|bounds|memory) | overflow | timed out
  timeout | cannot | can't | could not | couldn't | unable | refus(?:ed?|es|ing) | reject(?:ed|s|ing)? | unexpected | faulting
  stopped | respond\w* | bad | division | divide | killed | stuck | hangs? | hung | too long | longer than | segfault | sigsegv
  0xc0000\w+ | raised | not an? \w+ | unknown (?:key|function|command|field|symbol|identifier|id)
  missing (?:key|field|function|method|symbol) | mismatched | malformed
`;
/** What is not, or may be. */
const SUPPOSED = String.raw`(?<!\b(?:can|may|might|could|never|not|to) )`;
const HAS_ERROR = new RegExp(SUPPOSED + ERROR.source, 'i');
export const tellsError = (text: string): boolean => HAS_ERROR.test(text);

/** Causes in the order in which a line is read for them. */
export const ORDER = [
  'list-empty',
  'program-unknown',
  'requirement-missing',
  'wrong-version',
  'file-twice',
  'file-missing',
  'error-in-mod',
] as const satisfies readonly LogCause[];
