import type { Mismatch } from '#core/hold';
import { shortenMiddle } from '#core/text';
import { count, counted } from '~/parts/format';

const MOST = 40;
const short = (text: string | number | undefined): string =>
  typeof text === 'number' ? count(text) : shortenMiddle(text ?? '', MOST);

const SUBJECT: Partial<Record<Mismatch['claim'], string>> = {
  'depot-manifest': 'manifest digest',
  'tree-digest': 'tree digest',
};

/** What a sheet claims and that is not so, as a sentence. */
export function mismatchWords({ claim, of, claimed, known }: Mismatch): string {
  const [said, is] = [short(claimed), short(known)];
  switch (claim) {
    case 'game':
      return `It is for another game: ${said}.`;
    case 'held-at':
      return `It says it was held at ${said}, which has not come yet.`;
    case 'settings':
      return 'The number of settings that it tells of does not go with their digest.';
    case 'decision':
      return 'The reasons that it gives for its build contradict one another.';
    case 'build':
      return `Build ${said} is unknown here.`;
    case 'language':
      return `No depot has the language “${said}”.`;
    case 'language-not-owned':
      return `It is for the language “${said}”; you have “${is}”.`;
    case 'add-on':
      return `“${said}” is not an add-on of this game.`;
    case 'add-on-not-owned':
      return `It needs the add-on “${said}”, which you do not own.`;
    case 'optional-depot':
      return `“${said}” is not an optional depot of this game.`;
    case 'mod':
      return `The ${of} name “${said}”, which is not in the catalogue.`;
    case 'release':
      return `${of} ${said} is not in the catalogue.`;
    case 'release-twice':
      return `${of} is listed more than once.`;
    case 'release-files':
      return `${of} has ${counted(Number(known ?? 0), 'file')}, not ${said}.`;
    case 'release-digest':
      return `The files of ${of} have the digest ${is}, not ${said}.`;
    case 'depot-unknown':
      return `The depot “${said}” is unknown here.`;
    case 'depot-missing':
      return `The depot “${said}” is missing.`;
    case 'depot-too-many':
      return `The depot “${said}” does not belong in it, or is listed twice.`;
    case 'depot-order':
      return `The laying order is ${is}, not ${said}.`;
    case 'depot-manifest':
    case 'tree-digest':
      return `The ${SUBJECT[claim]}${of ? ` of “${of}”` : ''} is ${is}, not ${said}.`;
    case 'depot-files':
      return `The depot “${of}” has ${counted(Number(known), 'file')}, not ${said}.`;
    case 'depot-bytes':
      return `The depot “${of}” has ${counted(Number(known), 'byte')}, not ${said}.`;
    case 'load-order':
      return `The load order differs from what these releases require.`;
    case 'files':
      return `The tree has ${counted(Number(known), 'file')}, not ${said}.`;
    case 'bytes':
      return `The tree has ${counted(Number(known), 'byte')}, not ${said}.`;
  }
}
