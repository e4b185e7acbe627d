import {
  type Facts,
  type Failure,
  type FailureCode,
  type FailureFacts,
  isFailure,
  type WireFailure,
} from '#core/failure';
import type { JsonFault } from '#core/json';
import { shortenMiddle } from '#core/text';
import { bytes, count, counted } from './format';

export interface Words {
  /** What happened, to which file. */
  readonly what: string;
  /** What can be done. */
  readonly next: string;
}

const at = ({ file, line }: { readonly file?: string | undefined; readonly line?: number | undefined }): string =>
  file === undefined ? '' : ` (${file}${line === undefined ? '' : `, line ${line}`})`;

const path =
  (rule: string) =>
  (facts: FailureFacts['path/empty']): Words => ({
    what: `The path "${facts.path}" ${rule}${at(facts)}.`,
    next: 'Nothing was written. Ask the author of the list to correct it.',
  });

const JSON_FAULTS: Record<JsonFault | 'TooDeep', string> = {
  ValueExpected: 'a value is missing',
  NameExpected: 'the name of a field is missing',
  ColonExpected: 'a colon is missing after a name',
  CommaExpected: 'a comma is missing',
  EndExpected: 'something follows the end, or a bracket is not closed',
  UnterminatedString: 'a text is not closed',
  InvalidEscape: 'a backslash is followed by a character that has no meaning there',
  InvalidCharacter: 'a text contains a control character',
  InvalidNumber: 'a number is malformed',
  TooDeep: 'lists and objects are nested too deeply',
};

/** Why a source did not give a file. */
const WHY_NOT_FETCHED: Readonly<Partial<Record<string, string>>> = {
  'service/corrupt-piece': 'the source sends wrong bytes',
  'service/unreachable': 'the source does not answer',
  'service/not-owned': 'this account does not own it',
  'demo/unknown-file': 'the source does not have it any more',
};

/** @param code of the failure */
export const whyNotFetched = (code: string): string => WHY_NOT_FETCHED[code] ?? 'the source failed';

const WORDS: { readonly [Code in FailureCode]: (facts: FailureFacts[Code]) => Words } = {
  'path/empty': path('has an empty part'),
  'path/absolute': path('is absolute'),
  'path/climbs': path('leads out of its folder'),
  'path/forbidden-character': path('contains a character that some file systems do not allow'),
  'path/reserved-name': path('contains a name that some systems reserve for a device'),
  'path/trailing-dot-or-space': path('contains a name that ends in a dot or a space'),
  'path/too-long': path('is too long'),
  'path/collides': (facts) => ({
    what: `"${facts.path}" and "${facts.other}" would be the same file on some file systems${at(facts)}.`,
    next: 'Nothing was written. One of them has to be renamed at the source.',
  }),
  'path/too-many-folders': (facts) => ({
    what: `There are more than ${facts.limit} folders${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'digest/malformed': (facts) => ({
    what: `"${facts.found}" is not a checksum${at(facts)}.`,
    next: 'A SHA-256 has 64 hexadecimal digits, a SHA-1 40, an MD5 32, a CRC-32 8. Nothing was imported.',
  }),
  'metalink/malformed': (facts) => ({
    what: `The manifest cannot be read: ${facts.what}${at(facts)}.`,
    next: 'Nothing was imported. Try again, or contact the depot source.',
  }),
  'metalink/unsupported': (facts) => ({
    what: `The manifest has ${facts.found}, but ${facts.expected} are needed${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'metalink/pieces': (facts) => ({
    what: `The pieces of "${facts.path}" do not add up: found ${facts.found}, expected ${facts.expected}${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'table/malformed': (facts) => ({
    what: `A quotation mark is missing or misplaced${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'table/empty': (facts) => ({
    what: `The table has no rows${at(facts)}.`,
    next: 'The first line names the columns, each line below it is one release.',
  }),
  'table/too-large': (facts) => ({
    what: `The table has more than ${facts.limit} ${facts.what}${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'list/no-entry': (facts) => ({
    what: `"${facts.found}" is not an entry of a checksum list${at(facts)}.`,
    next: 'Each line has a checksum and a path. Nothing was imported.',
  }),
  'list/mixed-kinds': (facts) => ({
    what: `The list mixes ${facts.expected} and ${facts.found} checksums${at(facts)}.`,
    next: 'Make the list with a single command. Nothing was imported.',
  }),
  'list/empty': (facts) => ({
    what: `The list has no entries${at(facts)}.`,
    next: 'Run the command in the game folder and open the file that it writes.',
  }),
  'list/too-long': (facts) => ({
    what: `The list is too long${at(facts)}.`,
    next: `At most ${facts.limit} are read. Nothing was imported.`,
  }),
  'list/encoding': (facts) => ({
    what: `The text is not UTF-8${at(facts)}.`,
    next: 'Save it as UTF-8, or as UTF-16 with a byte order mark. Nothing was imported.',
  }),
  'list/kind-not-known': (facts) => ({
    what: `The manifests have no ${facts.found} checksums${at(facts)}.`,
    next: 'Make the list with SHA-256. Nothing was imported.',
  }),
  'json/malformed': (facts) => ({
    what: `This is not JSON: ${JSON_FAULTS[facts.what as keyof typeof JSON_FAULTS] ?? facts.what}${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'json/does-not-fit': (facts) => ({
    what: `The field "${facts.field}" is not valid: ${facts.problem}${at(facts)}.`,
    next: 'Nothing was imported.',
  }),
  'merge/encoding': (facts) => ({
    what: `"${facts.path}" is written in ${facts.encoding}, which has not all the characters that the game’s own file has now.`,
    next: 'Save the mod’s file as UTF-8, then carry it forward again.',
  }),
  'merge/open': (facts) => ({
    what: `"${facts.path}" has ${counted(facts.count, 'conflict')} to decide.`,
    next: 'Decide each, or by a rule, then carry the mod forward.',
  }),
  'hold-sheet/unknown-version': (facts) => ({
    what: `The hold sheet has version ${facts.found}${at(facts)}.`,
    next: `This version of Regressum reads version ${facts.expected}. Nothing was imported.`,
  }),
  'hold-sheet/not-as-claimed': (facts) => ({
    what: `The sheet names “${facts.found}”, which is unknown here${at(facts)}.`,
    next: 'Nothing was changed.',
  }),
  'target/unknown-release': (facts) => ({
    what: `${facts.mod} ${facts.release} is not in the catalogue.`,
    next: 'It may have been withdrawn. Select another release.',
  }),
  'demo/bad-seed': (facts) => ({ what: `${facts.found} is not a seed.`, next: `Use ${facts.expected}.` }),
  'demo/bad-range': (facts) => ({
    what: `Bytes ${facts.found} of "${facts.path}" do not exist.`,
    next: `Valid ranges lie ${facts.expected}.`,
  }),
  'demo/unknown-file': (facts) => ({
    what: `The service has no "${facts.path}".`,
    next: 'It may have been withdrawn. Refresh the index.',
  }),
  'service/unreachable': (facts) => ({
    what: `The service did not answer (${facts.url}).`,
    next: 'What was fetched is kept. Resume when the connection is back.',
  }),
  'service/refused': (facts) => ({
    what: `The service refused the ${facts.what ?? 'request'}.`,
    next: 'Check it and sign in again.',
  }),
  'service/too-many-tries': () => ({
    what: 'Too many wrong codes or passphrases.',
    next: 'Wait ten minutes, then request a new code.',
  }),
  'service/sign-in-needed': () => ({
    what: 'The depot service requires you to sign in.',
    next: 'Sign in under Fetch, then resume. What was fetched is kept.',
  }),
  'service/not-owned': (facts) => ({
    what: `This account does not own ${facts.depot ?? 'it'}.`,
    next: 'Deselect it under what you own to continue without it.',
  }),
  'service/failed': (facts) =>
    facts.status !== undefined && facts.url !== undefined
      ? {
          what: `${facts.url} answered ${facts.status}${facts.status === 404 ? ', which means that it is not there' : ''}.`,
          next: 'Check the address, or try again later. What was fetched is kept.',
        }
      : {
          what: `The service failed${facts.path === undefined ? '' : ` at "${facts.path}"`}.`,
          next: 'Several attempts failed. What was fetched is kept; resume later.',
        },
  'service/no-ranges': (facts) => ({
    what: `${facts.url} gives whole files only.`,
    next: 'It is fetched as a whole.',
  }),
  'fetch/incomplete': (facts) => ({
    what: `${facts.files === 1 ? `"${facts.path}"` : `${facts.files} files, "${facts.path}" among them,`} could not be fetched: ${whyNotFetched(facts.why)}.`,
    next: 'Everything else has come and is kept. Resume to ask for what is missing again.',
  }),
  'service/corrupt-piece': (facts) => ({
    what: `Piece ${Number(facts.piece ?? 0) + 1} of ${facts.url ?? facts.path} arrived with wrong bytes several times.`,
    next: 'Verified pieces are kept. Resume later.',
  }),
  'log/says-neither': (facts) => ({
    what: `${facts.file} tells neither that the game came up nor that it did not.`,
    next: 'Start the game and read it again, correct the rules of the game, or say yourself how it went.',
  }),
  'log/too-old': (facts) => ({
    what: `${facts.file} is older than the last change of the folder.`,
    next: 'Start the game first, then read it again.',
  }),
  'record/held': ({ what }) => ({
    what: `The folder is held, so its storefront was not switched to the ${what} branch.`,
    next: 'Release the hold first.',
  }),
  'record/not-as-ruled': (facts) => ({
    what: `${facts.file}${facts.line === undefined ? '' : `, line ${facts.line}`} is not as the game’s rules say: it ${facts.what}.`,
    next: 'Nothing was written. Correct the rules of the game, or set the file by hand.',
  }),
  'folder/not-found': (facts) => ({ what: `"${facts.path}" was not found.`, next: 'Check the folder again.' }),
  'folder/read-only': (facts) => ({
    what: `"${facts.path}" is locked and was not written.`,
    next: 'Nothing was changed. Release the hold first to change it.',
  }),
  'folder/full': ({ path, needs, free }) =>
    needs === undefined || free === undefined
      ? {
          what: `The disk is full; "${path}" was not written.`,
          next: 'Free some space, then resume. What was there before is complete.',
        }
      : {
          what: `It does not fit: ${bytes(needs)} are needed for ${path}, and ${bytes(free)} are free.`,
          next: 'Free some space, then resume.',
        },
  'folder/changed-meanwhile': (facts) => ({
    what: `"${facts.path}" changed after the folder was checked.`,
    next: 'The old folder is untouched. Check it again, then resume.',
  }),
  'folder/no-permission': (facts) => ({
    what: `The browser does not let Regressum use the folder${facts.path ? ` ("${facts.path}")` : ''}.`,
    next: 'Grant access again. Earlier results are kept.',
  }),
  'folder/gone': () => ({
    what: 'The page was reloaded, so the opened files are no longer available.',
    next: 'Open the folder again. Earlier results are kept.',
  }),
  'folder/failed': (facts) => ({
    what: `A disk error occurred at "${facts.path}": ${facts.message}`,
    next: 'Resume to try again.',
  }),
  'folder/not-a-file': (facts) => ({
    what: `"${facts.path}" is not a regular file but a pipe, a device or a socket.`,
    next: 'It was not read.',
  }),
  'source/not-an-address': (facts) => ({
    what: `"${facts.found}" is not a web address.`,
    next: 'Type one that begins with http:// or https://, without a name and passphrase in it.',
  }),
  'source/private': (facts) => ({
    what: `${facts.url} lies in a private network or on this machine, and came with a game.`,
    next: 'It was not asked. If you trust it, add it as a source yourself by typing it.',
  }),
  'source/redirected': (facts) => ({
    what: `${facts.url} sends to another place (${facts.found}).`,
    next: 'It was not followed. If you trust that place, add its address as a source.',
  }),
  'source/not-as-expected': (facts) => ({
    what: `${facts.url} is no ${facts.what}: ${facts.found}.`,
    next: 'Nothing was changed. Check the address.',
  }),
  'source/exists': (facts) => ({
    what: `"${facts.found}" is here already.`,
    next: 'Nothing was changed.',
  }),
  'bundle/does-not-fit': (facts) => ({
    what: `The bundle of ${facts.depot} at ${facts.build} is not as its index says: ${facts.frame === undefined ? 'it' : `frame ${facts.frame}`} ${facts.problem}.`,
    next: 'Nothing was fetched from it. Tell whoever made the source.',
  }),
  'profile/unknown-version': (facts) => ({
    what: `The profile is of version ${facts.found}; this Regressum reads version ${facts.expected}.`,
    next: 'Export it again with the same version of Regressum.',
  }),
  'profile/held': (facts) => ({
    what: `The folder is held, so it was not switched to ${facts.profile}.`,
    next: 'Release the hold first.',
  }),
  'profile/no-target': (facts) => ({
    what: `${facts.profile} has no build.`,
    next: 'Give it one first.',
  }),
  'keepsake/partial': ({ path, files }) => ({
    what: `${files === 1 ? `"${path}"` : `"${path}" and ${counted(files - 1, 'other file')}`} of yours could not be kept: ${files === 1 ? 'it is' : 'they are'} being written, or cannot be read.`,
    next: 'Close the game, then resume; or go on without them.',
  }),
  'keepsake/gone': () => ({ what: 'This keepsake is not there any more.', next: 'Choose another one.' }),
  'bag/malformed': (facts) => ({
    what: `${facts.file} is no archive of files that fits: ${facts.what}.`,
    next: 'Nothing was taken out of it.',
  }),
  'shelf/release-there': (facts) => ({
    what: `There is a release ${facts.release} of ${facts.mod} already, with other files.`,
    next: 'Nothing was put on the shelf. Give this one another release, such as one with your own mark.',
  }),
  'archive/unknown-kind': (facts) => ({
    what: `${facts.file} is no archive that Regressum reads.`,
    next: 'ZIP, 7z, RAR and tar are read. Pack its files again, or drop the folder that they lie in.',
  }),
  'archive/in-parts': (facts) => ({
    what: `${facts.file} is one part of an archive in several.`,
    next: 'Unpack all parts together, and pack what comes out as one archive.',
  }),
  'archive/encrypted': (facts) => ({
    what: `${facts.path === undefined ? facts.file : `"${facts.path}" in ${facts.file}`} is encrypted.`,
    next: 'Nothing was taken out of it. Unpack it with its password, and pack it again without.',
  }),
  'archive/not-a-file': (facts) => ({
    what: `"${facts.path}" in ${facts.file} is a link or a device, and no file.`,
    next: 'Nothing was taken out of it. A mod has no use for such: be careful with this archive.',
  }),
  'archive/damaged': (facts) => ({
    what: `${facts.path === undefined ? facts.file : `"${facts.path}" in ${facts.file}`} is damaged.`,
    next: 'Nothing was taken out of it. Download it again.',
  }),
  'archive/too-many': (facts) => ({
    what: `${facts.file} has more than ${count(facts.limit)} entries.`,
    next: 'Nothing was taken out of it.',
  }),
  'archive/too-large': (facts) => ({
    what: `${facts.file} would unpack to more than ${bytes(facts.limit)}, far more than an archive of its size has.`,
    next: 'Nothing was taken out of it: be careful with this archive.',
  }),
  'archive/too-large-to-read': (facts) => ({
    what: `${facts.file} is larger than ${bytes(facts.limit)}: archives of its kind are unpacked in memory.`,
    next: 'Pack its files as ZIP or tar, which may be of any size.',
  }),
  'backup/malformed': (facts) => ({
    what: `${facts.file ?? 'The file'} cannot be restored: ${facts.what}.`,
    next: 'Nothing that is here was changed. Choose another backup.',
  }),
  'backup/newer': (facts) => ({
    what: `The backup was made by a newer version of Regressum (${facts.found}; this one reads up to ${facts.expected}).`,
    next: 'Nothing was changed. Restore it with that version.',
  }),
  'folder/nested': (facts) => ({
    what: `"${facts.path}" lies in the game’s folder, or the game’s folder in it.`,
    next: 'Nothing was changed. Choose a folder beside it, best on another drive.',
  }),
  'folder/not-empty': (facts) => ({
    what: `There are files in ${facts.path} already.`,
    next: 'Nothing was copied. Choose an empty folder.',
  }),
  'folder/held': (facts) => ({
    what: `${facts.what} is held, so its files were not deleted.`,
    next: 'Release the hold first.',
  }),
  'folder/store-there': (facts) => ({
    what: `"${facts.path}" has a store of a folder of this name already.`,
    next: 'Nothing was changed. Choose another folder.',
  }),
  'folder/has-store': (facts) => ({
    what: `Regressum’s store of another game lies inside this folder, at "${facts.path}".`,
    next: 'Nothing was changed. Move that game out of this folder, or lay the build down in place.',
  }),
  'folder/in-use': (facts) => ({
    what: `"${facts.path}" is in use by ${facts.program ?? 'another program'}.`,
    next: 'Close the game and its storefront, then resume.',
  }),
  'folder/too-deep': (facts) => ({
    what: `"${facts.path}" is more than ${facts.limit} folders deep.`,
    next: 'Its contents were not read.',
  }),
  'request/malformed': (facts) => ({
    what: `The server could not read the ${facts.what} of a request.`,
    next: 'Reload the page.',
  }),
  'request/method': (facts) => ({
    what: `The server does not accept ${facts.found} at this address.`,
    next: 'Reload the page; it may be older than the server.',
  }),
  'request/too-long': (facts) => ({
    what: `The request is longer than ${facts.limit} bytes.`,
    next: 'It was not read.',
  }),
  'request/foreign': (facts) => ({
    what: `The server accepts requests from its own page only; the ${facts.what} header names another.`,
    next: 'Open the address that Regressum printed when it started.',
  }),
  'served/off': () => ({
    what: 'Regressum was started without served folders.',
    next: 'Start it with npm start -- --folder DIR, and open the address that it prints.',
  }),
  'served/refused': (facts) => ({
    what: `The server refused this page: the ${facts.what} is not valid.`,
    next: 'Open the address that Regressum printed when it started; each start has a new token.',
  }),
  'served/outside': (facts) => ({
    what: `"${facts.path}" is outside the served folders.`,
    next: 'Links are not followed. Serve the actual folder with --folder.',
  }),
  'served/root-replaced': (facts) => ({
    what: `The folder at "${facts.path}" was replaced after Regressum started.`,
    next: 'Restart Regressum to serve it.',
  }),
  'changes/not-allowed': (facts) => ({
    what: `Step ${facts.step} of a change (${facts.what}) reaches where it must not${facts.path === undefined ? '' : `: "${facts.path}"`}.`,
    next: 'Nothing was changed.',
  }),
  'changes/newer': () => ({
    what: 'A change in this folder was planned by a newer version of Regressum.',
    next: 'Nothing was changed. Continue it with that version.',
  }),
  'changes/damaged': (facts) => ({
    what: `The journal of a change is damaged: "${facts.path}" cannot be read.`,
    next: 'Nothing more was changed, and what the change replaced is kept in the store folder.',
  }),
  'changes/unknown': () => ({
    what: 'This change has no journal any more, so it cannot be continued or taken back.',
    next: 'Survey the folder to see what lies there.',
  }),
  'changes/let-go': () => ({
    what: 'What this change replaced is already being removed, so it cannot be taken back.',
    next: 'Survey the folder to see what lies there.',
  }),
  'changes/not-named': (facts) => ({
    what:
      facts.files === 1
        ? `"${facts.path}" would be deleted too, and is in no list: it may be yours.`
        : `${count(facts.files)} files that would be deleted too are in no list and may be yours, such as "${facts.path}".`,
    next: 'Nothing was deleted. Try again under History: it names them, and asks what becomes of each.',
  }),
  'changes/superseded': () => ({
    what: 'The change belongs to a folder that has been put aside.',
    next: 'Nothing was changed. In History, bring that folder back first.',
  }),
  'changes/unfinished': () => ({
    what: 'A change of this folder is not finished: it is between two states.',
    next: 'Continue that change, or take it back, in History.',
  }),
  'changes/locked': () => ({
    what: 'Another program is changing this folder right now.',
    next: 'Nothing was changed. If two servers serve this folder, stop one, or wait for the other.',
  }),
  'served/no-write': () => ({
    what: 'The server was started without permission to write.',
    next: 'Start it with --write to change folders.',
  }),
  'store/failed': (facts) => ({
    what: `The saved data has no ${facts.what}.`,
    next: 'Reload the page while the service can be reached.',
  }),
  'store/damaged': (facts) => ({
    what: `A saved ${facts.what} cannot be read: its field "${facts.field}" is not valid (${facts.problem}).`,
    next: 'It was left as it is, and no folder was changed. Add the folder again under Folders.',
  }),
  'store/newer': () => ({
    what: 'The saved data in this browser was written by a newer version of Regressum.',
    next: 'Nothing was changed. Start the newer version again.',
  }),
  'job/cancelled': () => ({ what: 'Cancelled.', next: '' }),
  'job/worker-died': () => ({
    what: 'A worker stopped unexpectedly.',
    next: 'Resume: the job continues where it stopped.',
  }),
  'job/busy': () => ({
    what: 'A job is working on this folder.',
    next: 'Wait for it, or cancel it in the job tray, and try again.',
  }),
  'job/not-checked-out': (facts) => ({
    what: `There is no ${facts.what} yet.`,
    next: 'Check the folder and select a build first.',
  }),
  unexpected: (facts) => ({
    what: `An unexpected error occurred: ${facts.message}`,
    next: 'Reload the page; jobs resume where they stopped.',
  }),
};

/** Characters of one fact that are shown. */
const MOST_SHOWN = 160;

export function failureWords({ code, facts }: Failure | WireFailure): Words {
  const short = Object.entries(facts).map(([name, fact]) => [
    name,
    typeof fact === 'string' ? shortenMiddle(fact, MOST_SHOWN) : fact,
  ]);
  return (WORDS[code] as (facts: Facts) => Words)(Object.fromEntries(short) as Facts);
}

/** How browsers say that a part of the program could not be loaded. */
const NOT_LOADED = /dynamically imported module|importing a module script/i;

/** Words for anything that was thrown. */
export function errorWords(error: unknown): Words {
  if (isFailure(error)) return failureWords(error);
  if (error instanceof TypeError && NOT_LOADED.test(error.message)) {
    return {
      what: 'A part of Regressum could not be loaded: its server does not answer.',
      next: 'Start it again with “npm run demo”, then reload the page. Nothing is lost: jobs resume where they stopped.',
    };
  }
  return failureWords({
    code: 'unexpected',
    facts: { message: error instanceof Error ? error.message : String(error) },
  });
}

/** Passes over a failure of what nobody asked for: it is tried again, and told where somebody asks. */
export function unlessFailure(error: unknown): void {
  if (!isFailure(error)) throw error;
}
