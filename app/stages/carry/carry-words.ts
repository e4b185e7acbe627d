import type { ChangeSummary, Choice, Difference } from '#core/merge';
import { shortenMiddle } from '#core/text';
import { count, counted } from '~/parts/format';
import type { CarryFile, CarryView } from '~/queries';

/** Characters of a value that are shown. */
const MOST_SHOWN = 60;

/** A value on one line. */
export const valueWords = (value: string): string =>
  shortenMiddle(value === '' ? '(empty)' : value.replace(/\r?\n$/, '').replaceAll(/\r?\n/g, ' ⏎ '), MOST_SHOWN);

/** A number without the noise of binary fractions. */
const amount = (value: number): string => String(Number(value.toPrecision(12)));

const placesOf = ({ what, count: n }: ChangeSummary): string => counted(n, what === 'cell' ? 'row' : 'place');

/** What a side did, as the rest of a sentence that begins with who did it. */
export function summaryWords(summary: ChangeSummary): string {
  const { did, what, name, count: n, by, first } = summary;
  if (what === 'column') {
    if (did === 'renamed') return `renames a column to ${first}`;
    return `${did === 'added' ? 'adds' : 'removes'} ${n === 1 ? `the column ${first}` : counted(n, 'column')}`;
  }
  if (what === 'lines')
    return `${{ added: 'adds', removed: 'removes' }[did as string] ?? 'changes'} lines in ${counted(n, 'place')}`;
  if (did === 'added' || did === 'removed') {
    const noun = what === 'row' ? 'row' : 'value';
    return `${did === 'added' ? 'adds' : 'removes'} ${n === 1 && what === 'row' ? `the row ${first}` : counted(n, noun)}`;
  }
  const verb = { raised: 'raises', lowered: 'lowers' }[did as string] ?? 'changes';
  const much = by ? ` by ${by[0] === by[1] ? amount(by[0]) : `${amount(by[0])} to ${amount(by[1])}`}` : '';
  return `${verb} ${name ?? 'values'}${n === 1 && what === 'value' ? '' : ` in ${placesOf(summary)}`}${much}`;
}

const MOST_TOLD = 6;

/** What a side did, as a sentence. */
export function didWords(who: string, did: readonly ChangeSummary[]): string {
  if (did.length === 0) return `${who} changes nothing that can be told.`;
  const told = did.slice(0, MOST_TOLD).map(summaryWords);
  const more = did.length - told.length;
  return `${who} ${told.join(', ')}${more > 0 ? `, and ${count(more)} more` : ''}.`;
}

/** The build that a release was made for, and how that is known. */
export function madeForWords({ isNamed, from, nearest }: Pick<CarryView, 'isNamed' | 'from' | 'nearest'>): string {
  if (isNamed) return `Made for ${from}, as its author says.`;
  const [first, second] = nearest?.builds ?? [];
  if (!first) return `Taken to be made for ${from}: nobody says.`;
  if (first.build !== from)
    return `Taken to be made for ${from}, though its files are nearest to those of ${first.build}.`;
  const others = second ? `, and ${count(second.places)} from those of ${second.build}` : '';
  return `Nobody says what it was made for. Its files are nearest to those of ${from}: ${counted(first.places, 'place')} differ${first.places === 1 ? 's' : ''}${others}.`;
}

export const STATE_WORDS: Record<Exclude<CarryFile['state'], 'changed'>, string> = {
  unchanged: 'unchanged by the patch',
  gone: 'the game has it no longer',
  own: 'made from no game file',
};

/** What counts in a place, and why. */
export function outcomeOf(difference: Difference): { readonly value: string | undefined; readonly why: string } {
  const { by, ours, theirs, decision } = difference;
  if (by === 'ours') return { value: ours, why: 'from the mod' };
  if (by === 'theirs') return { value: theirs, why: 'from the patch' };
  if (by === 'alike') return { value: ours, why: 'both alike' };
  if (decision === 'ours') return { value: ours, why: 'the mod’s' };
  if (decision === 'theirs') return { value: theirs, why: 'the game’s' };
  return { value: decision?.value, why: decision ? 'decided' : 'decide' };
}

export const CHOICE_WORDS: Record<Exclude<Choice, object>, string> = {
  ours: 'the mod’s value',
  theirs: 'the game’s value',
  shift: 'the mod’s change on top of the game’s value',
};

/** What both sides did to a place, as a sentence. */
export function conflictWords({ base, ours, theirs }: Difference): string {
  const did = (who: string, value: string | undefined): string =>
    value === undefined
      ? `${who} removed it`
      : base === undefined
        ? `${who} added ${valueWords(value)}`
        : `${who} made it ${valueWords(value)}`;
  return `${base === undefined ? '' : `It was ${valueWords(base)}: `}${did('the game', theirs)}, ${did('the mod', ours)}.`;
}
