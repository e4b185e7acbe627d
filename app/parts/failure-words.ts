import { type Facts, type Failure, type FailureCode, isFailure, type WireFailure } from '#core/failure';
import { shortenMiddle } from '#core/text';

export interface Words {
  /** What happened, to which file. */
  readonly what: string;
  /** What can be done. */
  readonly next: string;
}

const at = ({ file, line }: Facts): string =>
  file === undefined ? '' : ` (${file}${line === undefined ? '' : `, line ${line}`})`;

const path =
  (rule: string) =>
  (facts: Facts): Words => ({
    what: `The path "${facts.path}" ${rule}${at(facts)}.`,
    next: 'Nothing was written. Ask whoever made the list for a corrected one.',
  });

const WORDS: Record<FailureCode, (facts: Facts) => Words> = {
  'path/empty': path('has an empty part'),
  'path/absolute': path('is absolute'),
  'path/climbs': path('climbs out of its folder'),
  'path/forbidden-character': path('has a character that not every disk can hold'),
  'path/reserved-name': path('has a part that some systems reserve for a device'),
  'path/trailing-dot-or-space': path('has a part that ends in a dot or a space'),
  'path/too-long': path('is too long'),
  'path/collides': (facts) => ({
    what: `"${facts.path}" and "${facts.other}" would be one file on some disks${at(facts)}.`,
    next: 'Nothing was written. One of the two has to be renamed where they come from.',
  }),
  'path/too-many-folders': (facts) => ({
    what: `There are more than ${facts.limit} folders${at(facts)}.`,
    next: 'Nothing was taken over.',
  }),
  'digest/malformed': (facts) => ({
    what: `"${facts.found}" is no checksum${at(facts)}.`,
    next: 'A SHA-256 has 64 hexadecimal digits, a SHA-1 40, an MD5 32, a CRC-32 8. Nothing of the list was taken over.',
  }),
  'metalink/malformed': (facts) => ({
    what: `The manifest cannot be read: ${facts.what}${at(facts)}.`,
    next: 'Nothing of it was taken over. Try again, or ask the depot source.',
  }),
  'metalink/unsupported': (facts) => ({
    what: `The manifest has ${facts.found}, where ${facts.expected} are needed${at(facts)}.`,
    next: 'Nothing of it was taken over.',
  }),
  'metalink/pieces': (facts) => ({
    what: `The pieces of "${facts.path}" do not add up: ${facts.found} where ${facts.expected} is expected${at(facts)}.`,
    next: 'Nothing of the manifest was taken over.',
  }),
  'table/malformed': (facts) => ({
    what: `A quotation mark is missing or stands in the wrong place${at(facts)}.`,
    next: 'Nothing of the table was taken over.',
  }),
  'table/empty': (facts) => ({
    what: `There are no rows in the table${at(facts)}.`,
    next: 'The first line names the columns, each line below it is one release.',
  }),
  'table/too-large': (facts) => ({
    what: `The table has more than ${facts.limit} ${facts.what}${at(facts)}.`,
    next: 'Nothing of the table was taken over.',
  }),
  'list/no-entry': (facts) => ({
    what: `"${facts.found}" is no entry of a checksum list${at(facts)}.`,
    next: 'Each line has a checksum and a path. Nothing of the list was taken over.',
  }),
  'list/mixed-kinds': (facts) => ({
    what: `A ${facts.found} stands among checksums of kind ${facts.expected}${at(facts)}.`,
    next: 'Make the list with one command. Nothing of it was taken over.',
  }),
  'list/empty': (facts) => ({
    what: `There is no entry in the list${at(facts)}.`,
    next: 'Run the command in the game’s folder and hand over what it writes.',
  }),
  'list/too-long': (facts) => ({
    what: `The list is too long${at(facts)}.`,
    next: `At most ${facts.limit} are read. Nothing of it was taken over.`,
  }),
  'list/encoding': (facts) => ({
    what: `The text is not in UTF-8${at(facts)}.`,
    next: 'Save it as UTF-8, or as UTF-16 with a byte order mark. Nothing of it was taken over.',
  }),
  'list/kind-not-known': (facts) => ({
    what: `The manifests have no ${facts.found}${at(facts)}.`,
    next: 'Make the list with SHA-256. Nothing of it was taken over.',
  }),
  'json/malformed': (facts) => ({
    what: `This is not JSON: ${facts.what}${at(facts)}.`,
    next: 'Nothing was taken over.',
  }),
  'json/does-not-fit': (facts) => ({
    what: `The field "${facts.field}" does not fit: ${facts.problem}${at(facts)}.`,
    next: 'Nothing was taken over.',
  }),
  'hold-sheet/unknown-version': (facts) => ({
    what: `The hold sheet has version ${facts.found}${at(facts)}.`,
    next: `This Regressum reads version ${facts.expected}. Nothing was taken over.`,
  }),
  'hold-sheet/not-as-claimed': (facts) => ({
    what: `The sheet names “${facts.found}”, which is unknown here${at(facts)}.`,
    next: 'Nothing was changed.',
  }),
  'target/unknown-release': (facts) => ({
    what: `${facts.mod} ${facts.release} is not in the catalogue.`,
    next: 'It may have been withdrawn. Choose another release.',
  }),
  'demo/bad-seed': (facts) => ({ what: `${facts.found} is no seed.`, next: `It has to be ${facts.expected}.` }),
  'demo/bad-range': (facts) => ({
    what: `Bytes ${facts.found} of "${facts.path}" do not exist.`,
    next: `A range lies ${facts.expected}.`,
  }),
  'demo/unknown-file': (facts) => ({
    what: `The service has no "${facts.path}".`,
    next: 'Look again; it may have been withdrawn.',
  }),
  'service/unreachable': (facts) => ({
    what: `The service did not answer (${facts.url}).`,
    next: 'What arrived is kept. Go on when the connection is back.',
  }),
  'service/refused': (facts) => ({
    what: `The service refused the ${facts.what ?? 'request'}.`,
    next: 'Check it and sign in again.',
  }),
  'service/too-many-tries': () => ({
    what: 'Too many codes or passphrases were wrong.',
    next: 'Wait ten minutes, then ask for a new code.',
  }),
  'service/sign-in-needed': () => ({
    what: 'The depot service wants you to sign in.',
    next: 'Sign in under Fetch, then go on. What arrived is kept.',
  }),
  'service/not-owned': (facts) => ({
    what: `${facts.depot} is not owned by this account.`,
    next: 'Take it out of what you own, and the tree is made without it.',
  }),
  'service/failed': (facts) => ({
    what: `The service failed${facts.path === undefined ? '' : ` at "${facts.path}"`}.`,
    next: 'It was asked several times. What arrived is kept; go on in a while.',
  }),
  'service/corrupt-piece': (facts) => ({
    what: `Piece ${Number(facts.piece ?? 0) + 1} of ${facts.url} came with wrong bytes, again and again.`,
    next: 'What is right is kept. Go on in a while.',
  }),
  'folder/not-found': (facts) => ({ what: `"${facts.path}" is not there.`, next: 'Survey the folder again.' }),
  'folder/read-only': (facts) => ({
    what: `"${facts.path}" is locked and was not written.`,
    next: 'Nothing was changed. Let the hold go first if you want it changed.',
  }),
  'folder/full': (facts) => ({
    what: `The disk is full; "${facts.path}" was not written.`,
    next: 'Make room, then go on. The old folder is whole.',
  }),
  'folder/changed-meanwhile': (facts) => ({
    what: `"${facts.path}" is not what it was when the folder was looked at.`,
    next: 'The old folder is untouched. Survey it again, then go on.',
  }),
  'folder/no-permission': (facts) => ({
    what: `The browser no longer lets Regressum read the folder${facts.path ? ` ("${facts.path}")` : ''}.`,
    next: 'Allow it again. Findings before is kept.',
  }),
  'folder/gone': () => ({
    what: 'The files that were handed over are not known any more: this page was loaded anew.',
    next: 'Hand the folder over again. Findings before is kept.',
  }),
  'folder/failed': (facts) => ({
    what: `The disk failed at "${facts.path}": ${facts.message}`,
    next: 'Go on to try again.',
  }),
  'folder/not-a-file': (facts) => ({
    what: `"${facts.path}" is no plain file but a pipe, a device or a socket.`,
    next: 'It was left alone.',
  }),
  'folder/too-deep': (facts) => ({
    what: `"${facts.path}" lies more than ${facts.limit} folders deep.`,
    next: 'What is in it was not read.',
  }),
  'request/malformed': (facts) => ({
    what: `The server did not understand the ${facts.what} of a request.`,
    next: 'Reload the page.',
  }),
  'request/method': (facts) => ({
    what: `The server does not answer ${facts.found} there.`,
    next: 'Reload the page: it may be older than the server.',
  }),
  'request/too-long': (facts) => ({
    what: `The request is longer than ${facts.limit} bytes.`,
    next: 'Nothing of it was read.',
  }),
  'request/foreign': (facts) => ({
    what: `The server answers its own page only: the header ${facts.what} names another.`,
    next: 'Open the address that was printed when Regressum started.',
  }),
  'served/off': () => ({
    what: 'This Regressum serves no folder.',
    next: 'Start it with REGRESSUM_ROOTS=/path/to/the/game, and open it again.',
  }),
  'served/refused': (facts) => ({
    what: `The server does not serve files to this page: the ${facts.what} is not right.`,
    next: 'Take the token that was printed when Regressum started; each start has a new one.',
  }),
  'served/outside': (facts) => ({
    what: `"${facts.path}" leads out of the folders that are served.`,
    next: 'Links are not followed. Name its real folder in REGRESSUM_ROOTS.',
  }),
  'served/root-replaced': (facts) => ({
    what: `Another folder lies at "${facts.path}" than when Regressum started.`,
    next: 'Start Regressum again to serve it.',
  }),
  'store/failed': (facts) => ({
    what: `The store has no ${facts.what}.`,
    next: 'Reload the page while the service can be reached.',
  }),
  'job/cancelled': () => ({ what: 'Cancelled.', next: '' }),
  'job/worker-died': () => ({ what: 'A worker stopped unexpectedly.', next: 'Go on: the job continues where it was.' }),
  'job/runs-elsewhere': () => ({ what: 'This runs in another tab.', next: 'Look there.' }),
  'job/not-checked-out': (facts) => ({
    what: `There is no ${facts.what} yet.`,
    next: 'Survey the folder and choose a build first.',
  }),
  unexpected: (facts) => ({
    what: `Something unexpected happened: ${facts.message}`,
    next: 'Reload the page; jobs go on where they were.',
  }),
};

/** Characters of one fact that are shown. */
const MOST_SHOWN = 160;

export function failureWords({ code, facts }: Failure | WireFailure): Words {
  const short = Object.entries(facts).map(([name, fact]) => [
    name,
    typeof fact === 'string' ? shortenMiddle(fact, MOST_SHOWN) : fact,
  ]);
  return WORDS[code](Object.fromEntries(short) as Facts);
}

/** How browsers say that a part of the program could not be loaded. */
const NOT_LOADED = /dynamically imported module|importing a module script/i;

/** Words for anything that was thrown. */
export function errorWords(error: unknown): Words {
  if (isFailure(error)) return failureWords(error);
  if (error instanceof TypeError && NOT_LOADED.test(error.message)) {
    return {
      what: 'A part of Regressum could not be loaded: the program that brings the pages does not answer.',
      next: 'Start it again with “npm run demo”, then reload the page. Nothing is lost: jobs go on where they were.',
    };
  }
  return failureWords({
    code: 'unexpected',
    facts: { message: error instanceof Error ? error.message : String(error) },
  });
}
