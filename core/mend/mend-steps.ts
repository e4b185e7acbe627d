import type { ModId } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import { loadOrder, modById, releaseAt, releaseOrder } from '#core/mods';
import { assess, type AssessInput, type Assessment } from './verdict';

/** What is proposed for one mod when the game goes to another build. */
export interface MendStep extends Assessment {
  readonly mod: ModId;
  readonly from: string | undefined;
  /** The release that the mod goes to; undefined sets it on the bench. */
  readonly to: string | undefined;
  /** `leave`: the person has it stay as it is, whatever speaks against it. */
  readonly action: 'keep' | 'update' | 'go-back' | 'add' | 'bench' | 'leave';
}

function actionFor(from: number, to: number): MendStep['action'] {
  if (to < 0) return 'bench';
  if (from < 0) return 'add';
  return to === from ? 'keep' : to > from ? 'update' : 'go-back';
}

/**
 * One step a mod, in the order in which they can be taken: the loader at the very start, requirements before what
 * needs them, and what goes on the bench at the end. The assessment is that of the proposed release; of a mod for the
 * bench, that of its newest one.
 * @param insisted releases that a person wants to have, whatever speaks against them
 */
export function mendSteps(
  choice: Pick<BuildChoice, 'runs' | 'lost'>,
  installed: ReadonlyMap<ModId, string>,
  input: AssessInput,
  insisted: ReadonlyMap<ModId, string> = new Map(),
): MendStep[] {
  const { catalogue } = input;
  const wanted = new Map([...choice.runs, ...insisted]);
  const running = loadOrder(catalogue, wanted);
  const isLoader = (id: ModId): boolean => modById(catalogue, id)?.kind === 'loader';
  const benched = [...choice.lost.keys()].filter((id) => !wanted.has(id));
  const order = [...running.filter(isLoader), ...running.filter((id) => !isLoader(id)), ...benched];
  return order.flatMap((id) => {
    const mod = modById(catalogue, id);
    if (!mod) return [];
    const [from, to] = [installed.get(id), wanted.get(id)];
    const release = (to === undefined ? undefined : releaseAt(mod, to)) ?? mod.releases.at(-1)!;
    const place = (version: string | undefined): number => (version === undefined ? -1 : releaseOrder(mod, version));
    const action = insisted.has(id) && from === to ? 'leave' : actionFor(place(from), place(to));
    return [{ mod: id, from, to, action, ...assess(release, input) }];
  });
}
