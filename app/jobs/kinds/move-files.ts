import { z } from 'zod';
import type { Step } from '#core/changes';
import { Failure } from '#core/failure';
import { SafePathSchema } from '#core/paths';
import { aroundFlags, changeSet, changesOf } from '~/changes';
import { treePath } from '~/folders';
import { getHold, getInstall, getSurvey } from '~/store';
import { beginPhase, type JobContext, type Kind, readParams } from '../job-context';
import { inOneChange } from './in-one-change';
import { survey } from './survey';

const ParamsSchema = z.object({
  /** Whose files they are, for the person. */
  name: z.string(),
  moves: z.array(z.tuple([SafePathSchema, SafePathSchema])).min(1),
});

async function plan(context: JobContext): Promise<void> {
  const { name, moves } = readParams(context, ParamsSchema);
  const install = await getInstall(context.install);
  if (await getHold(install.id)) throw new Failure('folder/held', { what: install.title });
  // Others may have changed it unnoticed.
  await survey.run({ ...context, params: { trustEarlier: true } });
  const surveyed = (await getSurvey(install))!;
  const there = new Map(surveyed.paths.map((path, i) => [path, surveyed.keys[i]!]));
  const changes = changesOf(install);
  const tree = await changes.disk.current();
  const steps = moves.map(([from, to]): Step => {
    const key = there.get(from);
    if (key === undefined) throw new Failure('folder/not-found', { path: from });
    if (there.has(to)) throw new Failure('folder/changed-meanwhile', { path: to });
    return { do: 'move', from: treePath(tree, from), to: treePath(tree, to), key };
  });
  const facts = { name: name.slice(0, 200), files: String(steps.length) };
  const all = await aroundFlags(changes.disk, steps);
  beginPhase(context, 'Moving files', all);
  await changes.run(context, context.id, 'on', changeSet(context.id, 'move-files', facts, all));
}

/** Moves files of mods to where they belong, as one change set; nothing is put over another file. */
export const moveFiles: Kind = inOneChange(plan);
