import { z } from 'zod';
import { aroundFlags, changeSet, changesOf, ownSteps } from '~/changes';
import { isPutBack, ownName, putBackOf } from '#core/keepsakes';
import { ownPlaces } from '~/places';
import { getGame, getInstall } from '~/store';
import { beginPhase, type JobContext, type Kind, readParams } from '../job-context';
import { keepOwnBefore, readOwn } from './keep-own';
import { inOneChange } from './in-one-change';
import { keepsakeHere } from './kept-contents';

const ParamsSchema = z.object({
  keepsake: z.string(),
  /** Names of the files that are put back; all of them, where left out. */
  files: z.array(z.string()).readonly().optional(),
  /** Whether files that came since are taken out, so that there is just what was kept. */
  withoutSince: z.boolean().default(false),
});

async function plan(context: JobContext, params: z.output<typeof ParamsSchema>): Promise<void> {
  const install = await getInstall(context.install);
  const kept = await keepsakeHere(context, install, params.keepsake);
  await keepOwnBefore(context, 'put-back', { also: kept.files });
  const { rows, since } = putBackOf(kept, (await readOwn(context, install, kept.files)).files);
  const names = params.files && new Set(params.files);
  const chosen = rows.filter((row) => isPutBack(row) && (names?.has(ownName(row)) ?? true));
  const places = await ownPlaces(install, (await getGame(install.game)).rules);
  const changes = changesOf(install);
  const own = { put: chosen, take: params.withoutSince ? since : [] };
  const steps = await aroundFlags(changes.disk, await ownSteps(context.id, places, own));
  beginPhase(context, 'Putting files back', steps);
  const facts = { keepsake: kept.id, at: String(kept.at) };
  await changes.run(context, context.id, 'on', changeSet(context.id, 'put-back', facts, steps));
}

/**
 * Puts files of a keepsake back where they belong, as one change set. What lies there now goes into a keepsake of its own
 * first, and what is replaced is kept by the set.
 */
export const putBackOwn: Kind = inOneChange((context) => plan(context, readParams(context, ParamsSchema)));
