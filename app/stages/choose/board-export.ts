import type { BuildLabel } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import { markdownRow as line } from '#core/tables';
import { modNames } from '~/parts/mod-names';
import type { ChooseView } from '~/queries';
import { type BoardRow, CHANGE_TITLES, rolledBack, WEIGHT_TITLES } from './board-rows';
import { lossWords } from './loss-words';

/** The rows that are shown as a table of texts: what is known of each mod, and its release at each build. */
export function boardTable(view: ChooseView, rows: readonly BoardRow[]): { fields: string[]; data: string[][] } {
  const { choices } = view;
  return {
    fields: ['mod', 'author', 'weight', 'on disk', ...choices.map(({ build }) => build)],
    data: rows.map(({ mod, weight, onDisk }) => [
      mod.name,
      mod.author,
      weight ?? '',
      onDisk ?? '',
      ...choices.map(({ runs }) => runs.get(mod.id) ?? ''),
    ]),
  };
}

/** What becomes of the rows at one build, as a Markdown table for a message to others. */
export function boardMarkdown(
  view: ChooseView,
  rows: readonly BoardRow[],
  choice: BuildChoice,
  game: { title: string; builds: ReadonlyMap<BuildLabel, string> },
): string {
  const names = modNames(view.catalogue);
  const words = (row: BoardRow): string =>
    row.loss ? lossWords(row.loss, choice.build, names) : CHANGE_TITLES[row.change].toLowerCase();
  return [
    `## ${game.title} ${choice.build} (${game.builds.get(choice.build) ?? ''})`,
    '',
    `${choice.running} of ${view.weights.size} mods run, ${rolledBack(view, choice).length} roll back, ${choice.lost.size} are lost.`,
    '',
    line(['Mod', 'Weight', 'On disk', `At ${choice.build}`, '']),
    line(['---', '---', '---', '---', '---']),
    ...rows.map((row) =>
      line([
        row.mod.name,
        row.weight ? WEIGHT_TITLES[row.weight].toLowerCase() : '',
        row.onDisk ?? '',
        row.chosen ?? 'lost',
        words(row),
      ]),
    ),
    '',
  ].join('\n');
}
