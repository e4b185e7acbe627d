import { bytes, count } from '~/parts/format';
import type { FrameView } from '~/queries';

export interface Stage {
  readonly id: 'survey' | 'choose' | 'fetch' | 'assemble' | 'hold' | 'mend';
  readonly title: string;
  readonly key: string;
}

export const STAGES: readonly Stage[] = [
  { id: 'survey', title: 'Survey', key: 's' },
  { id: 'choose', title: 'Choose', key: 'c' },
  { id: 'fetch', title: 'Fetch', key: 'f' },
  { id: 'assemble', title: 'Assemble', key: 'a' },
  { id: 'hold', title: 'Hold', key: 'h' },
  { id: 'mend', title: 'Mend', key: 'm' },
];

/**
 * The address of a stage, for the build that is looked at. Mend begins with what the storefront leads to: whoever has looked
 * at the build that they came from wants to know what has become of their mods since.
 */
export const stageAddress = (install: string, stage: Stage['id'], build: string | undefined): string =>
  `/${install}/${stage}${build !== undefined && stage !== 'mend' ? `?build=${build}` : ''}`;

export type Tone = 'attention' | 'right' | 'plain';

function chosen({ mods, install, builds }: FrameView): { text: string; tone: Tone } | undefined {
  if (mods === 0) return install.target && { text: install.target.build, tone: 'right' };
  const running = builds.find(({ label }) => label === install.target?.build)?.running;
  return running === undefined ? undefined : { text: `${running}/${mods}`, tone: 'right' };
}

/** What needs attention in a stage, or how far it is; undefined where there is nothing to tell yet. */
export function stageFigure(stage: Stage['id'], view: FrameView): { text: string; tone: Tone } | undefined {
  const { likeliest, onDisk, toFetch, laid, held, lostNow, due, survey, lookedAt } = view;
  // Until a change that was begun has ended, nothing that was read says anything.
  if (view.unfinished.length > 0)
    return stage === 'survey'
      ? { text: 'unfinished', tone: 'attention' }
      : stage === 'choose'
        ? chosen(view)
        : undefined;
  switch (stage) {
    case 'survey':
      if (!survey && lookedAt === undefined) return undefined;
      return {
        text: `${likeliest ?? 'unknown'}${onDisk.length > 1 ? ' mixed' : ''}`,
        tone: survey?.fresh && survey.departures === 0 && onDisk.length === 1 ? 'right' : 'attention',
      };
    case 'choose':
      return chosen(view);
    case 'fetch':
      if (!toFetch) return undefined;
      if (toFetch.files === 0 && toFetch.nowhere > 0)
        return { text: `${count(toFetch.nowhere)} missing`, tone: 'attention' };
      return toFetch.files === 0
        ? { text: 'complete', tone: 'right' }
        : { text: bytes(toFetch.bytes), tone: 'attention' };
    case 'assemble':
      return laid ? { text: 'laid down', tone: 'right' } : undefined;
    case 'hold':
      if (!held) return undefined;
      if (held.loose.length > 0)
        return { text: held.loose.includes('lock') ? 'unlocked' : 'setting off', tone: 'attention' };
      // Of a folder that has changed since it was read nobody knows.
      if (held.drift === undefined) return { text: 'unchecked', tone: 'attention' };
      return held.drift > 0
        ? { text: `${count(held.drift)} drifted`, tone: 'attention' }
        : { text: held.build, tone: 'right' };
    case 'mend':
      if (lostNow) return { text: count(lostNow), tone: 'attention' };
      return due.length > 0 ? { text: `${count(due.length)} due`, tone: 'attention' } : undefined;
  }
}

/** The stage that makes sense to open next. */
export function nextStage({ survey, install, toFetch, laid, held }: FrameView): Stage['id'] {
  if (!survey?.fresh) return 'survey';
  if (!install.target) return 'choose';
  if (toFetch && toFetch.files + toFetch.nowhere > 0) return 'fetch';
  if (!laid) return 'assemble';
  return held ? 'mend' : 'hold';
}
