import { modById, releaseAt } from '#core/mods';
import { exactTime } from '~/parts/format';
import { moveWords } from '~/parts/mod-names';
import type { MendedView, MendView } from '~/queries';
import { ACTION_WORDS, untilWords } from './mend-words';

const line = (words: string): string => words.replace(/[\r\n]+/g, ' ').replace(/[\\`*_[\]<>#|]/g, '\\$&');

/** What was done to have a game's mods run at a build, and what is left, as Markdown. Newest change first. */
export function mendReport(
  title: string,
  view: Pick<MendView, 'from' | 'to' | 'onDisk' | 'items' | 'bench' | 'catalogue'>,
  mended: readonly MendedView[],
): string {
  const nameOf = (id: string): string => modById(view.catalogue, id)?.name ?? id;
  const lines = [`# ${line(title)}: mods for ${line(view.to)}`, ''];
  if (view.from !== view.to) lines.push(`They ran on ${line(view.from)} before.`);
  lines.push(`The folder is at ${line(view.onDisk ?? 'an unknown build')}.`, '', '## Done', '');
  if (mended.length === 0) lines.push('Nothing yet.');
  for (const { at, from, build, moves, isTakenBack } of mended) {
    const game = from !== undefined && build !== undefined ? `, the game from ${from} to ${build}` : '';
    lines.push(`- ${exactTime(at)}${line(game)}${isTakenBack ? ' (taken back)' : ''}`);
    for (const move of moves) lines.push(`  - ${line(moveWords(move, move.name))}`);
  }
  const open = view.items.filter(({ state }) => state !== 'done');
  lines.push('', '## Left to do', '');
  if (open.length === 0) lines.push('Nothing.');
  for (const { mod, action, from, to, verdict, state } of open) {
    const note = to === undefined ? undefined : releaseAt(modById(view.catalogue, mod)!, to)?.unofficial;
    const words = `${nameOf(mod)}: ${ACTION_WORDS[action]}, ${from ?? 'not there'} → ${to ?? 'out'}; ${verdict}`;
    lines.push(`- ${line(words)}${state === 'blocked' ? ' (blocked)' : ''}${note ? line(`, from ${note}`) : ''}`);
  }
  if (view.bench.length > 0) {
    lines.push('', '## On the bench', '');
    for (const { mod, release, reason, until } of view.bench)
      lines.push(
        `- ${line(`${[nameOf(mod), release].filter(Boolean).join(' ')}, ${untilWords(until)}: ${reason || 'no reason given'}`)}`,
      );
  }
  return `${lines.join('\n')}\n`;
}
