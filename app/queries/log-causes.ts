import { CauseReader, type KnownToLog, LineCutter, type LogCauses } from '#core/log-causes';
import { modById, releaseAt } from '#core/mods';
import { likeliestBuild } from '#core/survey';
import { listTrials } from '~/store';
import { identities, type InstallContext, installContext, installedReleases } from './install-context';

/* What a log tells of why a start went wrong. */

/** Milliseconds that the patterns of a game may take of a log. */
const MOST_PATTERN_MS = 15_000;

/** What a log may name of a folder: its mods with their files, others that are known, the game's own files. */
function knownTo(here: InstallContext): KnownToLog {
  const { catalogue, index, trees } = here;
  const installed = installedReleases(here);
  const build = likeliestBuild(identities(here), trees.keys());
  const vanilla = new Set((trees.get(build!) ?? []).map(({ path }) => path.toLowerCase()));
  return {
    mods: [...installed].flatMap(([id, version]) => {
      const mod = modById(catalogue, id);
      const release = mod && releaseAt(mod, version);
      return mod ? [{ id, name: mod.name, paths: release?.files.map(({ path }) => path) ?? [] }] : [];
    }),
    absent: catalogue.mods
      .filter(({ id }) => !installed.has(id))
      .map(({ id, name, releases }) => ({ id, name, paths: releases.at(-1)?.files.map(({ path }) => path) ?? [] })),
    program: index.game.rules.program,
    loader: [...installed.keys()].find((id) => modById(catalogue, id)?.kind === 'loader'),
    isVanilla: (path) => vanilla.has(path),
    rules: index.game.rules.causes ?? [],
    failed: index.game.rules.log?.failed,
  };
}

const textOf = (lines: readonly { readonly text: string }[]): string => lines.map(({ text }) => text).join('\n');

async function readStream(log: Blob, reader: CauseReader): Promise<void> {
  const cutter = new LineCutter((line) => reader.line(line));
  const pieces = log.stream().pipeThrough(new TextDecoderStream()).getReader();
  for (let piece = await pieces.read(); !piece.done; piece = await pieces.read()) cutter.add(piece.value);
  cutter.end();
}

/**
 * Tells why a start went wrong.
 * @param log any log; that of the last start, where it is left out
 * @returns undefined where there is no log
 */
export async function logCauses(installId: string, log?: Blob): Promise<LogCauses | undefined> {
  const [here, trials] = await Promise.all([installContext(installId), listTrials(installId)]);
  const sorted = trials.toSorted((a, b) => a.at - b.at);
  const good = sorted.findLast(({ answer }) => answer.outcome === 'title' && answer.mods.every(({ ran }) => ran));
  const last = sorted.at(-1);
  const source = log ?? (last && last.answer.log.length > 0 ? new Blob([textOf(last.answer.log)]) : undefined);
  if (!source) return undefined;
  const isOther = good && good !== last && good.answer.log.length > 0;
  const reader = new CauseReader(knownTo(here), isOther ? textOf(good.answer.log) : undefined, {
    now: () => performance.now(),
    most: MOST_PATTERN_MS,
  });
  await readStream(source, reader);
  return reader.end();
}
