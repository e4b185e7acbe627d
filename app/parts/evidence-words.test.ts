import { expect, it } from 'vitest';
import { asMod } from '#core/builds';
import type { Reason } from '#core/mend';
import { reasonWords } from './evidence-words';

const names = new Map([['tow', 'Towline']]);

it.each<[Reason, string | RegExp]>([
  [{ kind: 'tried', ran: false, at: 0 }, /^Tried here .*: it did not run\.$/],
  [{ kind: 'author', says: 'runs' }, 'The author says it runs on 3.1.1.'],
  [{ kind: 'author', says: 'breaks' }, 'The author says it breaks on 3.1.1.'],
  [{ kind: 'author', says: 'nothing' }, 'The author says nothing about 3.1.1.'],
  [
    { kind: 'reports', for: 180, against: 10, low: 0.905, high: 0.971 },
    '180 reports that it runs on 3.1.1, 10 that it does not: it runs for 91 % to 97 % of players.',
  ],
  [{ kind: 'untouched', since: '2.9.4' as never }, 'Nothing it uses has changed since 2.9.4, where it runs.'],
  [
    { kind: 'touched', since: '2.9.4' as never, paths: ['tables/locks.csv', 'config/a.json'] },
    'Changed since 2.9.4, where it runs: tables/locks.csv, config/a.json.',
  ],
  [{ kind: 'touches-unknown', since: '2.9.4' as never }, 'It runs on 2.9.4; which game files it uses is unknown.'],
  [
    { kind: 'requirement', needs: { mod: asMod('tow'), from: '1.12', to: '1.14' } },
    'It needs Towline 1.12 to 1.14, which does not run on 3.1.1.',
  ],
  [{ kind: 'requirement', needs: { mod: asMod('fog') } }, 'It needs fog, which does not run on 3.1.1.'],
])('%j is said in words', (reason, words) => {
  const said = reasonWords(reason, '3.1.1', names);
  if (typeof words === 'string') expect(said).toBe(words);
  else expect(said).toMatch(words);
});
