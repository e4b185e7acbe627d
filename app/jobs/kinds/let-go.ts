import { z } from 'zod';
import { OWN_KINDS } from '#core/builds';
import { type ContentKey, keySize } from '#core/digest';
import { Failure } from '#core/failure';
import { IN_GAME, type Keepsake, KEEPSAKE_VERSION, type OwnFile } from '#core/keepsakes';
import { KeySchema, PLACES } from '#core/changes';
import { type Changes, changesOf, coveredBy } from '~/changes';
import { query } from '~/queries';
import { getInstall, removeSurvey } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';

const ParamsSchema = z.object({
  /** Left out, what nothing refers to is removed. */
  set: z.string().optional(),
  /** Files that the person has seen named, and that may go; or are kept as below. */
  named: z.array(z.tuple([z.string(), z.number(), z.number()])).default([]),
  /** Files that are kept in a keepsake: where they were in the game's folder, and where they lie now. */
  keep: z
    .array(
      z.object({
        path: z.string(),
        at: z.string(),
        key: KeySchema,
        kind: z.enum(OWN_KINDS),
        modified: z.number().nullable(),
      }),
    )
    .default([]),
});
type Kept = z.output<typeof ParamsSchema>['keep'];

/** Whose file it was: of the game's folder, or of a folder beside it that a person pointed at. */
function placeOf(path: string): Pick<OwnFile, 'place' | 'path'> {
  const [top, name, ...rest] = path.split('/');
  return top === PLACES.beside && name !== undefined && rest.length > 0
    ? { place: name, path: rest.join('/') }
    : { place: IN_GAME, path };
}

/** Keeps what the person does not want to lose before it goes. */
async function keepFirst(context: JobContext, changes: Changes, keep: Kept): Promise<void> {
  if (keep.length === 0) return;
  const now = await changes.keysOf(
    context,
    keep.map(({ at }) => at),
  );
  const changed = keep.find(({ key }, i) => now[i] !== key);
  if (changed) throw new Failure('folder/changed-meanwhile', { path: changed.path });
  const from = new Map<ContentKey, string>(keep.map(({ key, at }) => [key, at]));
  const bytes = [...from.keys()].reduce((sum, key) => sum + keySize(key), 0);
  context.phase('Keeping what is yours', from.size, bytes);
  const files = keep.map(({ path, key, kind, modified }): OwnFile => ({
    ...{ ...placeOf(path), kind, key, modified, along: true },
  }));
  const keepsake: Keepsake = {
    ...{ version: KEEPSAKE_VERSION, id: `${context.id}-own`, at: Date.now(), why: 'change', what: 'let-go' },
    ...{ ...(await query('standing', context.install)), files },
  };
  await changes.carryOut(context, { act: 'keepsake', install: context.install, keepsake, from: [...from] });
}

/** Removes for good what a change set keeps, or what nothing refers to. Never what is the game's folder now, or what was not named. */
export const letGo: Kind = {
  async run(context) {
    const { set, named, keep } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const changes = changesOf(install);
    await keepFirst(context, changes, keep);
    if (set === undefined) {
      context.phase('Deleting what nothing refers to', 0, 0);
      await changes.carryOut(context, { act: 'clear', named });
      return;
    }
    context.phase('Deleting what the change keeps', 0, 0);
    const known = await changes.read(set);
    await changes.carryOut(context, { act: 'let-go', set, named });
    // Taken back for good, it covers nothing any more.
    if (known?.way === 'back') await changes.carryOut(context, { act: 'drop', reference: coveredBy(set) });
    const trees = known?.set.steps.flatMap((step) => (step.do === 'exchange' ? [step.from, step.to] : [])) ?? [];
    for (const tree of trees) if (tree !== install.tree) await removeSurvey(install.id, tree);
  },
};
