import type { BuildLabel } from '#core/builds';
import { counted } from '~/parts/format';
import type { FrameView } from '~/queries';
import type { Visit } from '~/commands';
import { nextStage, type Stage, STAGES } from './stages';
import { waitingIn } from './waiting';

/** One thing that a person who comes back has to know, and where to go for it. */
export interface StandingFact {
  readonly words: string;
  readonly stage: Stage['id'] | 'shelf';
  readonly tone: 'right' | 'attention';
}

const listed = (builds: readonly BuildLabel[]): string =>
  builds.length > 3 ? `${builds.slice(-3).join(', ')} and ${builds.length - 3} more` : builds.join(', ');

function holdFact({ held, survey }: FrameView): StandingFact {
  if (!held)
    return { words: 'Nothing is held: the storefront may update this folder.', stage: 'hold', tone: 'attention' };
  const { build, drift, loose, isKnown } = held;
  const attention = (words: string): StandingFact => ({ words, stage: 'hold', tone: 'attention' });
  if (loose.includes('lock')) return attention(`${build} is held, but its record was unlocked at the last check.`);
  if (loose.includes('setting'))
    return attention(`${build} is held, but the update setting had changed at the last check.`);
  if (!isKnown) return attention(`${build} is held, but not all of it is known here: it cannot be checked.`);
  if (drift === undefined || !survey?.fresh)
    return attention(`${build} is held. The folder has changed since its last check.`);
  if (drift > 0) return attention(`${build} is held, and ${counted(drift, 'file')} drifted.`);
  return { words: `${build} is held. Nothing had drifted at the last check.`, stage: 'hold', tone: 'right' };
}

const MOST_NAMED = 4;
const someOf = (names: readonly string[]): string =>
  names.length > MOST_NAMED
    ? `${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} more`
    : names.join(', ');

/** Where things stand with a folder: what is held, what has drifted, what came out since a visit, what waits. */
export function standingOf(view: FrameView, before: Visit | undefined): StandingFact[] {
  const { builds, lostNow, due, likeliest, survey } = view;
  const facts: StandingFact[] = [];
  if (survey) facts.push(holdFact(view));
  else facts.push({ words: 'This folder has not been checked yet.', stage: 'survey', tone: 'attention' });
  const seen = new Set(before?.builds);
  const fresh = before ? builds.filter(({ label }) => !seen.has(label)).map(({ label }) => label) : [];
  if (fresh.length > 0) {
    const words = `${counted(fresh.length, 'build')} came out since: ${listed(fresh)}.`;
    facts.push({ words, stage: 'mend', tone: 'attention' });
  } else if (before) facts.push({ words: 'No build has come out since.', stage: 'mend', tone: 'right' });
  if (lostNow && likeliest) {
    facts.push({
      words: `${counted(lostNow, 'mod does', 'mods do')} not run on ${likeliest}.`,
      stage: 'choose',
      tone: 'attention',
    });
  }
  if (due.length > 0) {
    const words = `Due back from the bench: ${someOf(due)}.`;
    facts.push({ words, stage: 'mend', tone: 'attention' });
  }
  const waiting = waitingIn(view.install);
  if (waiting.length > 0) {
    const words = `New or changed in folders that you follow: ${someOf(waiting)}.`;
    facts.push({ words, stage: 'shelf', tone: 'attention' });
  }
  const next = nextStage(view);
  const title = STAGES.find(({ id }) => id === next)!.title;
  if (!facts.some(({ stage }) => stage === next))
    facts.push({ words: `Next step: ${title}.`, stage: next, tone: 'attention' });
  return facts;
}
