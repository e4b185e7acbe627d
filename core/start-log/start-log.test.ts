import { describe, expect, it } from 'vitest';
import { type LogRule, LogRuleSchema } from '#core/builds';
import { readStartLog } from '.';

const RULE: LogRule = {
  file: 'last.log',
  version: '^Orchard ([\\d.]+)',
  up: 'menu ready',
  crashed: '^FATAL',
  loaded: 'graft (\\S+) grown',
  failed: 'graft (\\S+) withered',
};
const GOOD = 'Orchard 2.1\r\n[1] graft pear grown\r\n[2] graft plum withered: no stem\r\nmenu ready\r\n';

describe('the log of a start', () => {
  it('tells whether the game came up, at which version, and with which mods', () => {
    expect(readStartLog(GOOD, RULE)).toMatchObject({
      ...{ outcome: 'title', version: '2.1' },
      mods: [
        { name: 'pear', ran: true, line: undefined },
        { name: 'plum', ran: false, line: '[2] graft plum withered: no stem' },
      ],
    });
  });

  it('that crashed after it came up has crashed', () =>
    expect(readStartLog(`${GOOD}FATAL out of water\n`, RULE).outcome).toBe('crash'));

  it('that tells neither says neither', () => {
    expect(readStartLog('Orchard 2.1\n', RULE).outcome).toBeUndefined();
    expect(readStartLog('', RULE)).toEqual({ outcome: undefined, version: undefined, mods: [], lines: [] });
  });

  it('of several starts tells of the last', () => {
    const last = readStartLog(`${GOOD}FATAL\nOrchard 2.2\ngraft fig grown\nmenu ready`, RULE);
    expect([last.outcome, last.version, last.mods.map(({ name }) => name)]).toEqual(['title', '2.2', ['fig']]);
  });

  it('counts what was said of a mod last', () =>
    expect(readStartLog('graft fig withered\ngraft fig grown', RULE).mods).toEqual([
      { name: 'fig', ran: true, line: undefined },
    ]));

  it('keeps little of a long one', () => {
    const log = readStartLog(`FATAL ${'x'.repeat(5000)}\n`.repeat(5000), RULE);
    expect(log.lines.length).toBeLessThan(100);
    expect(Math.max(...log.lines.map(({ text }) => text.length))).toBe(1000);
  });
});

it.each([
  [{ up: undefined, crashed: undefined }, 'tells neither'],
  [{ file: '../last.log' }, ''],
])('a rule with %o is refused', (more, says) => {
  const { error } = LogRuleSchema.safeParse({ ...RULE, ...more });
  expect(error!.issues.map(({ message }) => message).join()).toContain(says);
});
