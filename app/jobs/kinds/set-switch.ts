import { PIECE_SIZE } from '#core/digest';
import { Failure } from '#core/failure';
import { changeSet, changesOf, editSteps } from '~/changes';
import { treePath } from '~/folders';
import { getGame, getInstall } from '~/store';
import { type JobContext, type Kind } from '../job-context';
import { takeBackEdit } from './edit-record';
import { inOneChange } from './in-one-change';

async function plan(context: JobContext): Promise<void> {
  const install = await getInstall(context.install);
  const { loaderSwitch: rule } = (await getGame(install.game)).rules;
  if (!rule) throw new Failure('record/not-as-ruled', { file: '', what: 'is not described in the game’s rules' });
  const { disk, run } = changesOf(install);
  const path = treePath(install.tree, rule.file);
  const bytes = await disk.read(path);
  if (bytes.length > PIECE_SIZE)
    throw new Failure('record/not-as-ruled', { file: rule.file, what: 'is larger than 1 MiB' });
  const text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes);
  const { writeValue } = await import('#core/record');
  const isReadOnly = (await disk.readOnlyOf([path])).has(path);
  const steps = await editSteps(context.id, { path, text, isReadOnly }, writeValue(text, rule, rule.on), isReadOnly);
  if (steps.length === 0) return;
  await run(context, context.id, 'on', changeSet(context.id, 'edit', { file: rule.file }, steps));
}

/** Sets a loader's own switch, which patches undo, so that mods are loaded: one value of one file, as a change set. */
export const setSwitch: Kind = inOneChange(plan, takeBackEdit);
