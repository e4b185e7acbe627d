import type { BuildLabel } from '#core/builds';
import type { Benched, Until, WorkItem } from '#core/mend';
import type { BenchWish } from '~/commands';
import { counted } from '~/parts/format';

type Names = ReadonlyMap<string, string>;

export const ACTION_WORDS: Record<WorkItem['action'], string> = {
  keep: 'keep',
  update: 'update',
  'go-back': 'go back',
  add: 'add',
  bench: 'take out',
  leave: 'leave as it is',
};

/** What a step does, as a button says it. */
export function stepWords({ mod, from, to, action }: WorkItem, names: Names): string {
  const name = names.get(mod) ?? mod;
  switch (action) {
    case 'update':
      return `Update ${name} to ${to}`;
    case 'go-back':
      return `Take ${name} back to ${to}`;
    case 'add':
      return `Add ${name} ${to}`;
    case 'bench':
      return `Take ${name} ${from ?? ''} out`.replace('  ', ' ');
    case 'keep':
    case 'leave':
      return `Keep ${name} ${to}`;
  }
}

/** Why and until when a mod is taken out that has no release for the build. */
export const notRunning = (build: BuildLabel): BenchWish => ({
  reason: `Does not run on ${build}`,
  until: { kind: 'runs' },
});

export function untilWords(until: Until | undefined): string {
  switch (until?.kind) {
    case 'day':
      return `until ${until.day}`;
    case 'build':
      return `until the folder is at ${until.build}`;
    case 'patch':
      return 'until the next build is out';
    case 'release':
      return 'until it has a newer release';
    case 'runs':
      return 'until a release runs here';
    case 'group':
      return 'until its group comes back';
    case undefined:
      return 'for now';
  }
}

/** What has come that a mod on the bench waited for. */
export function dueWords({ until }: Benched): string {
  switch (until?.kind) {
    case 'day':
      return `${until.day} has come`;
    case 'build':
      return `the folder is at ${until.build} or newer`;
    case 'patch':
      return 'a newer build is out';
    case 'release':
      return 'it has a newer release';
    case 'runs':
      return 'a release of it runs here';
    case 'group':
    case undefined:
      return '';
  }
}

/** What is still to do, in words: `12 steps to do, 2 of them blocked`. */
export function leftWords(items: readonly Pick<WorkItem, 'state'>[]): string {
  const open = items.filter(({ state }) => state !== 'done').length;
  const blocked = items.filter(({ state }) => state === 'blocked').length;
  if (open === 0) return 'Nothing left to do';
  return `${counted(open, 'step')} to do${blocked > 0 ? `, ${blocked} of them blocked` : ''}`;
}
