import type { Sign } from '#core/narrow';
import type { ModId } from '#core/builds';
import { counted } from '~/parts/format';
import type { NarrowView } from '~/queries';
import type { Narrowing } from '~/store';

export const SIGN_WORDS: Record<Sign, string> = {
  named: 'did not load at the last start',
  changed: 'new since it last ran',
  doubtful: 'nothing says that it runs here',
  touched: 'uses files that the patch changed',
};

export const OUTCOME_WORDS: Record<Narrowing['starts'][number]['outcome'], string> = {
  fails: 'fails',
  runs: 'runs',
  'cannot-tell': 'cannot tell',
};

export const nameOf = (view: NarrowView, mod: ModId): string => view.mods.find((one) => one.mod === mod)?.name ?? mod;

/** What fails, as the end of a sentence that begins with "it". */
export function symptomWords(view: NarrowView, symptom: Narrowing['symptom']): string {
  switch (symptom.kind) {
    case 'crash':
      return 'The game does not come up';
    case 'not-loaded':
      return `${nameOf(view, symptom.mod)} does not load`;
    case 'seen':
      return symptom.words;
  }
}

/** What the last start says of the symptom by itself; undefined where a person has to say. */
export function outcomeOf(
  { last, next }: NarrowView,
  { symptom, starts, at }: Narrowing,
): Narrowing['starts'][number]['outcome'] | undefined {
  // Only a start that was made since the last answer is about what is on now.
  if (!last || !next || last.at <= Math.max(at, ...starts.map((one) => one.at))) return undefined;
  if (last.outcome === 'crash') return symptom.kind === 'seen' ? undefined : 'fails';
  if (symptom.kind === 'crash') return 'runs';
  if (symptom.kind === 'seen' || !last.knowsMods) return undefined;
  return last.loaded.includes(symptom.mod) ? 'runs' : 'fails';
}

/** What it is down to, as a sentence. */
export function culpritWords(view: NarrowView, mods: readonly ModId[]): string {
  const [first, second] = mods.map((mod) => nameOf(view, mod));
  const { under } = view;
  if (first === undefined)
    return under?.symptom.kind === 'not-loaded'
      ? `${nameOf(view, under.symptom.mod)} fails by itself`
      : 'It fails without any of these mods';
  const asked = under?.symptom.kind === 'not-loaded' ? ` ${nameOf(view, under.symptom.mod)}` : '';
  if (second === undefined) return asked === '' ? `${first} breaks it` : `${first} keeps${asked} from loading`;
  return `${first} and ${second} break it together`;
}

/** Why just this start is asked for. */
export function whyThis({ next }: NarrowView): string {
  if (!next) return '';
  const fails = percent(next.fails);
  return fails > 35 && fails < 65
    ? 'Either answer leaves about half of the suspicion.'
    : `It is expected to fail with ${fails} in 100: the answer tells most all the same.`;
}

export const leftWords = ({ left }: NarrowView): string =>
  `${counted(left.likely, 'start')} left, most likely; ${left.most} if two break it together.`;

/** A probability in hundreds; nothing is ever quite sure. */
export const percent = (likely: number): number => Math.min(99, Math.round(likely * 100));
