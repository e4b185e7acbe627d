import { expect, it } from 'vitest';
import { asMod } from '#core/builds';
import type { Reason } from '#core/mend';
import { reasonWords } from './evidence-words';

const names = new Map([['tow', 'Towline']]);

it.each<[Reason, string | RegExp]>([
  [{ kind: 'tried', ran: false, at: 0 }, /^Tried here .*: it did not run\.$/],
  [{ kind: 'author', says: 'runs' }, 'Its author says that it runs on 3.1.1.'],
  [{ kind: 'author', says: 'breaks' }, 'Its author says that it breaks on 3.1.1.'],
  [{ kind: 'author', says: 'nothing' }, 'Its author says nothing of 3.1.1.'],
  [
    { kind: 'reports', for: 180, against: 10, low: 0.905, high: 0.971 },
    '180 reports that it runs on 3.1.1, 10 that it does not: of all who try it, 91 % to 97 % can run it.',
  ],
  [{ kind: 'untouched', since: '2.9.4' as never }, 'Nothing that it touches changed since 2.9.4, where it runs.'],
  [
    { kind: 'touched', since: '2.9.4' as never, paths: ['tables/locks.csv', 'config/a.json'] },
    'Changed since 2.9.4, where it runs: tables/locks.csv, config/a.json.',
  ],
  [
    { kind: 'touches-unknown', since: '2.9.4' as never },
    'It runs on 2.9.4; which files of the game it touches is not known.',
  ],
  [
    { kind: 'requirement', needs: { mod: asMod('tow'), from: '1.12', to: '1.14' } },
    'It needs Towline 1.12 to 1.14, of which none may run on 3.1.1.',
  ],
  [{ kind: 'requirement', needs: { mod: asMod('fog') } }, 'It needs fog, of which none may run on 3.1.1.'],
])('%j is said in words', (reason, words) => {
  const said = reasonWords(reason, '3.1.1', names);
  if (typeof words === 'string') expect(said).toBe(words);
  else expect(said).toMatch(words);
});
