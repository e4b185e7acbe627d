import { describe, expect, it } from 'vitest';
import { type HelpFacts, helpReport } from './help-report';
import { culpritWords, outcomeOf, symptomWords, whyThis } from './narrow-words';

const mods = [
  { mod: 'trellis', name: 'Trellis', release: '2', signs: [], isHere: true },
  { mod: 'quince', name: 'Quince', release: '5', signs: ['changed', 'touched'], isHere: false },
];
const view = {
  ...{ build: 'harvest 2', isNewest: true, mods, names: new Map(mods.map(({ mod, name }) => [mod, name])) },
  under: {
    ...{ at: 10, symptom: { kind: 'seen', words: 'The trees of /home/wilma do not grow' } },
    starts: [{ at: 20, on: ['trellis'], outcome: 'runs' }],
  },
  culprits: [{ mods: ['quince'], likely: 0.91 }],
  ...{ since: undefined, last: undefined, next: { on: [], fails: 0.5, bits: 1 }, left: { likely: 2, most: 5 } },
} as unknown as HelpFacts['view'];
const facts = {
  view,
  frame: {
    index: { game: { title: 'Glass Orchard' } },
    install: { title: 'Wilma’s garden', folder: 'Wilma’s garden' },
    program: { path: 'orchard.prog', isThere: true, builds: ['harvest 2'] },
    held: undefined,
  },
  survey: undefined,
  log: {
    findings: [
      {
        cause: 'wrong-version',
        mod: 'quince',
        other: undefined,
        path: undefined,
        line: 7,
        text: 'quince: `x`',
        count: 1,
      },
    ],
    ...{ lines: 40, unusual: [] },
  },
} as unknown as HelpFacts;

describe('a help report', () => {
  const report = helpReport(facts);

  it('has what a helper asks first', () => {
    for (const part of [
      '- Glass Orchard harvest 2, the newest',
      '- Program `orchard.prog`: of harvest 2',
      '- Not held',
      '2. Quince 5 (new since it last ran; uses files that the patch changed; switched off now)',
      '- No start is known that went well with all mods',
      '- Start 1, 1 mod on: runs',
      '- Quince: 91 %',
      '- Quince is made for another version. Line 7: `quince: ’x’`',
    ])
      expect(report.split('\n')).toContain(part);
  });

  it('has no name of a person, nor what they call their folder', () => {
    expect(report).not.toMatch(/wilma/i);
    expect(report).toMatch(/^# The trees of .* do not grow\n/);
  });

  it('says that no log is known, or what is unusual in one in which nothing is recognised', () => {
    expect(helpReport({ ...facts, log: undefined })).toContain('No log of the last start is known.');
    const log = { findings: [], lines: 3, unusual: [{ line: 2, text: 'odd' }] };
    expect(helpReport({ ...facts, log })).toContain('Nothing is recognised in its 3 lines.\n- Line 2: `odd`');
  });
});

describe('what is said of narrowing down', () => {
  const [trellis, quince] = ['trellis', 'quince'] as never as [never, never];

  it.each([
    [[], 'It fails without any of these mods'],
    [[quince], 'Quince breaks it'],
    [[trellis, quince], 'Trellis and Quince break it together'],
  ])('names what it is down to', (some, words) => expect(culpritWords(view, some)).toBe(words));

  it('names the mod that does not load, and what keeps it from that', () => {
    const asked = { ...view, under: { ...view.under!, symptom: { kind: 'not-loaded', mod: trellis } as const } };
    expect(symptomWords(asked, asked.under.symptom)).toBe('Trellis does not load');
    expect(culpritWords(asked, [quince])).toBe('Quince keeps Trellis from loading');
  });

  it('says why just this start is asked for', () => {
    expect(whyThis(view)).toBe('Either answer leaves about half of the suspicion.');
    expect(whyThis({ ...view, next: { ...view.next!, fails: 0.1 } })).toMatch(/^It is expected to fail with 10 in 100/);
  });

  it.each([
    ['crash', { kind: 'crash' } as const, 'fails'],
    ['title', { kind: 'crash' } as const, 'runs'],
    ['title', { kind: 'not-loaded', mod: quince } as const, 'fails'],
    ['title', { kind: 'not-loaded', mod: trellis } as const, 'runs'],
    ['title', { kind: 'seen', words: 'x' } as const, undefined],
  ])('a start that came to %s tells by itself: %j', (outcome, symptom, told) => {
    const last = { at: 30, outcome, loaded: [trellis], knowsMods: true } as never;
    expect(outcomeOf({ ...view, last }, { ...view.under!, symptom })).toBe(told);
    // One from before the last answer is about other mods.
    expect(outcomeOf({ ...view, last: { ...(last as object), at: 20 } as never }, { ...view.under!, symptom })).toBe(
      undefined,
    );
  });
});
