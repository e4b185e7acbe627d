import { withoutPrivate } from '#core/help';
import type { LogCauses } from '#core/log-causes';
import { count, counted, exactTime } from '~/parts/format';
import type { FrameView, NarrowView, SurveyView } from '~/queries';
import { causeWords } from './cause-words';
import { OUTCOME_WORDS, percent, SIGN_WORDS, symptomWords } from './narrow-words';

/** What a report is made of. */
export interface HelpFacts {
  readonly frame: Pick<FrameView, 'index' | 'install' | 'program' | 'held'>;
  readonly view: NarrowView;
  readonly survey: SurveyView | undefined;
  readonly log: LogCauses | undefined;
}

/** Findings and lines of a log that are told. */
const MOST_TOLD = 20;

const code = (text: string): string => `\`${text.replaceAll('`', '’')}\``;

function gameLines({ frame, view, survey }: HelpFacts): string[] {
  const { index, program, held } = frame;
  const lines = [`- ${index.game.title} ${view.build}${view.isNewest ? ', the newest' : ''}`];
  if (program)
    lines.push(
      `- Program ${code(program.path)}: ${!program.isThere ? 'missing' : program.builds.length > 0 ? `of ${program.builds.slice(-3).join(', ')}` : 'altered or unknown'}`,
    );
  for (const { title, builds, found, total } of survey?.depots ?? [])
    lines.push(
      `- ${title}: ${builds.slice(-2).join(' or ') || 'not there'}, ${count(found)} of ${count(total)} files right`,
    );
  if (survey) lines.push(`- Checked ${exactTime(survey.at)}${survey.fresh ? '' : ', changed since'}`);
  lines.push(
    held ? `- Held at ${held.build}${held.drift ? `, ${counted(held.drift, 'file')} drifted` : ''}` : '- Not held',
  );
  return lines;
}

const modLines = ({ view }: HelpFacts): string[] =>
  view.mods.map(({ name, release, signs, isHere }, i) => {
    const told = [...signs.map((sign) => SIGN_WORDS[sign]), ...(isHere ? [] : ['switched off now'])];
    return `${i + 1}. ${name} ${release}${told.length > 0 ? ` (${told.join('; ')})` : ''}`;
  });

function startLines({ view }: HelpFacts): string[] {
  const { since, under, culprits } = view;
  const lines = since
    ? [
        `- Last start that went well: ${exactTime(since.at)}${since.version === undefined ? '' : `, at ${since.version}`}`,
        `- Since then ${counted(since.added, 'mod')} added, ${count(since.updated)} at another release, ${count(since.gone)} gone`,
      ]
    : ['- No start is known that went well with all mods'];
  under?.starts.forEach(({ on, outcome }, i) =>
    lines.push(`- Start ${i + 1}, ${counted(on.length, 'mod')} on: ${OUTCOME_WORDS[outcome]}`),
  );
  const names = new Map(view.mods.map(({ mod, name }) => [mod, name]));
  if (under && under.starts.length > 0)
    for (const { mods, likely } of culprits.slice(0, 3))
      lines.push(
        `- ${mods.map((mod) => names.get(mod) ?? mod).join(' and ') || 'None of the mods'}: ${percent(likely)} %`,
      );
  return lines;
}

function logLines({ view, log }: HelpFacts): string[] {
  if (!log) return ['No log of the last start is known.'];
  const nameOf = (id: string): string => view.names.get(id) ?? id;
  const found = log.findings
    .slice(0, MOST_TOLD)
    .map((finding) => `- ${causeWords(finding, nameOf).words} Line ${count(finding.line)}: ${code(finding.text)}`);
  if (found.length > 0) return found;
  return [
    `Nothing is recognised in its ${counted(log.lines, 'line')}.`,
    ...log.unusual.map(({ line, text }) => `- Line ${count(line)}: ${code(text)}`),
  ];
}

/**
 * What a helper asks first, as Markdown: what fails, the build by depot, mods in their order, what changed, what the log tells. Names of
 * people, paths through their folders and addresses are taken out of it.
 */
export function helpReport(facts: HelpFacts): string {
  const { view, frame } = facts;
  const what = view.under ? symptomWords(view, view.under.symptom) : 'Mods do not run as they should';
  const parts: readonly (readonly [title: string, lines: readonly string[]])[] = [
    ['Game', gameLines(facts)],
    [`Mods, ${count(view.mods.length)}, in load order`, modLines(facts)],
    ['Starts', startLines(facts)],
    ['Log of the last start', logLines(facts)],
  ];
  const text = parts.map(([title, lines]) => `## ${title}\n\n${lines.join('\n') || 'None.'}\n`).join('\n');
  // The folder is called as a person likes; a game's own title is nobody's secret.
  const { title, folder } = frame.install;
  const own = [title, folder].filter(
    (name) => name !== frame.index.game.title && !folder.endsWith(frame.index.game.title),
  );
  return withoutPrivate(`# ${what}\n\n${text}`, own);
}
