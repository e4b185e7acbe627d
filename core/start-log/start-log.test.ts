import { describe, expect, it } from 'vitest';
import { type LogRule, LogRuleSchema } from '#core/builds';
import { isBefore, readStartLog, startedAt } from '.';

const RULE: LogRule = {
  file: 'last.log',
  version: '^Orchard ([\\d.]+)',
  up: 'menu ready',
  crashed: '^FATAL',
  loaded: 'graft (\\S+) grown',
  failed: 'graft (\\S+) withered',
};
const NOW = Date.UTC(2030, 5, 15, 12);
const GOOD = 'Orchard 2.1\r\n[1] graft pear grown\r\n[2] graft plum withered: no stem\r\nmenu ready\r\n';

describe('the log of a start', () => {
  it('tells whether the game came up, at which version, and with which mods', () => {
    expect(readStartLog(GOOD, RULE, NOW)).toMatchObject({
      ...{ outcome: 'title', version: '2.1' },
      mods: [
        { name: 'pear', ran: true, line: undefined },
        { name: 'plum', ran: false, line: '[2] graft plum withered: no stem' },
      ],
    });
  });

  it('that crashed after it came up has crashed', () =>
    expect(readStartLog(`${GOOD}FATAL out of water\n`, RULE, NOW).outcome).toBe('crash'));

  it('that tells neither says neither', () => {
    expect(readStartLog('Orchard 2.1\n', RULE, NOW).outcome).toBeUndefined();
    expect(readStartLog('', RULE, NOW)).toEqual({
      ...{ outcome: undefined, version: undefined, told: undefined, mods: [], lines: [] },
    });
  });

  it('of several starts tells of the last', () => {
    const last = readStartLog(`${GOOD}FATAL\nOrchard 2.2\ngraft fig grown\nmenu ready`, RULE, NOW);
    expect([last.outcome, last.version, last.mods.map(({ name }) => name)]).toEqual(['title', '2.2', ['fig']]);
  });

  it('counts what was said of a mod last', () =>
    expect(readStartLog('graft fig withered\ngraft fig grown', RULE, NOW).mods).toEqual([
      { name: 'fig', ran: true, line: undefined },
    ]));

  it('keeps little of a long one', () => {
    const log = readStartLog(`FATAL ${'x'.repeat(5000)}\n`.repeat(5000), RULE, NOW);
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

describe('when a start was', () => {
  const HOUR = 3_600_000;
  const told = (...lines: readonly string[]) => readStartLog([...lines, 'menu ready'].join('\n'), RULE, NOW).told;

  it.each([
    ['2030-06-15T10:00:00Z begins', Date.UTC(2030, 5, 15, 10), true],
    ['[2030-06-15 10:00:00.123456+02:00] begins', Date.UTC(2030, 5, 15, 8), true],
    ['2030/06/15 10:00:01 begins', Date.UTC(2030, 5, 15, 10, 0, 1), false],
    ['15.06.2030, 9:30 begins', Date.UTC(2030, 5, 15, 9, 30), false],
    ['[Warning] [2030-06-15 10:00:00] begins', Date.UTC(2030, 5, 15, 10), false],
    ['INFO - 2030-06-15t10:00:00z begins', Date.UTC(2030, 5, 15, 10), true],
  ])('is told by a line: %s', (line, at, hasZone) => expect(told(line)).toEqual({ at, hasZone }));

  it.each([
    'version 2030.06.15',
    'Built 2030-06-01T10:00:00Z',
    'INFO a save of 2030-06-15 10:00:00',
    '10:00:00 begins',
    '2030-13-15 10:00:00',
    '06/07/2030 10:00',
    '2031-06-15T10:00:00Z',
  ])('is not told by %s', (line) => expect(told(line)).toBeUndefined());

  it('is the newest of the last start', () => {
    expect(told('2030-06-15T10:00:00Z a', '2030-06-15T10:05:00Z b', 'built 2020-01-01T00:00:00Z')?.at).toBe(
      Date.UTC(2030, 5, 15, 10, 5),
    );
    const first = 'Orchard 1\n2030-06-15T11:00:00Z\nmenu ready';
    expect(told(first, 'Orchard 2', '2030-06-15T10:30:00Z')?.at).toBe(Date.UTC(2030, 5, 15, 10, 30));
  });

  it('is before a change by what the lines tell, whatever the time of a copy; else by the file', () => {
    const zoned = { at: NOW - HOUR, hasZone: true };
    const local = { at: NOW - HOUR, hasZone: false };
    expect(isBefore(NOW - HOUR / 2, { told: zoned, file: NOW })).toBe(true);
    expect(isBefore(NOW - 2 * HOUR, { told: zoned, file: NOW - 5 * HOUR })).toBe(false);
    // A time without a zone is only believed where no zone makes it another.
    expect(isBefore(NOW, { told: local, file: NOW })).toBe(false);
    expect(isBefore(NOW, { told: local, file: NOW - HOUR })).toBe(true);
    expect(isBefore(NOW + 14 * HOUR, { told: local, file: NOW + 15 * HOUR })).toBe(true);
    expect(isBefore(NOW, { told: undefined, file: NOW - 2000 })).toBe(false);
    expect(isBefore(NOW, { told: undefined, file: NOW - 2001 })).toBe(true);
    expect(isBefore(NOW, { told: undefined, file: undefined })).toBe(false);
  });

  it('is that of the lines, of the file, or now, and never in the future', () => {
    expect(startedAt({ told: { at: 5, hasZone: true }, file: 7 }, 9)).toBe(5);
    expect(startedAt({ told: { at: 5, hasZone: false }, file: 7 }, 9)).toBe(7);
    expect(startedAt({ told: undefined, file: 70 }, 9)).toBe(9);
    expect(startedAt({ told: undefined, file: undefined }, 9)).toBe(9);
  });
});
