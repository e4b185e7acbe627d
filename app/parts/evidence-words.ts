import type { Reason } from '#core/mend';
import { shortenMiddle } from '#core/text';
import { rangeOfMod } from './mod-names';
import { count, counted, exactTime } from './format';

const percent = (share: number): string => `${Math.round(share * 100)} %`;

/** What one piece of evidence says of a release at a build. */
export function reasonWords(reason: Reason, to: string, names: ReadonlyMap<string, string>): string {
  switch (reason.kind) {
    case 'tried':
      return `Tried here ${exactTime(reason.at)}: it ${reason.ran ? 'ran' : 'did not run'}.`;
    case 'author':
      return reason.says === 'nothing'
        ? `The author says nothing about ${to}.`
        : `The author says it ${reason.says === 'runs' ? 'runs' : 'breaks'} on ${to}.`;
    case 'said': {
      const from = reason.address === undefined ? '' : ` (${reason.address})`;
      return `Somebody says it ${reason.runs ? 'runs' : 'does not run'} on ${to}${reason.text === '' ? '' : `: ${reason.text}`}${from}`;
    }
    case 'reports':
      return `${counted(reason.for, 'report')} that it runs on ${to}, ${count(reason.against)} that it does not: it runs for ${percent(reason.low)} to ${percent(reason.high)} of players.`;
    case 'untouched':
      return `Nothing it uses has changed since ${reason.since}, where it runs.`;
    case 'touches-unknown':
      return `It runs on ${reason.since}; which game files it uses is unknown.`;
    case 'touched':
      return `Changed since ${reason.since}, where it runs: ${reason.paths.map((path) => shortenMiddle(path, 36)).join(', ')}.`;
    case 'requirement':
      return `It needs ${rangeOfMod(reason.needs, names)}, which does not run on ${to}.`;
  }
}
