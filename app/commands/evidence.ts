import type { BuildLabel, ModId } from '#core/builds';
import type { Said } from '#core/mend';
import { addTrial, broadcast, removeTrial, updateGame } from '~/store';

/** Notes that a person has seen mods run at a build, or not; it counts as a start of the game does, log or not. */
export async function noteTried(
  install: string,
  build: BuildLabel,
  mods: readonly { readonly mod: ModId; readonly release: string; readonly ran: boolean }[],
): Promise<void> {
  const answer = { told: true as const, outcome: 'title' as const, version: build, mods: [...mods], log: [] };
  await addTrial({ install, at: Date.now(), answer });
  broadcast({ type: 'changed' });
}

/** Takes back what was noted at a time; of one mod alone, where it is said. */
export async function forgetTried(install: string, at: number, mod?: ModId): Promise<void> {
  await removeTrial(install, at, mod);
  broadcast({ type: 'changed' });
}

/** Writes down what somebody said of a release elsewhere: it counts for all folders of the game. */
export async function noteSaid(game: string, said: Omit<Said, 'id' | 'at'>): Promise<void> {
  const one = { ...said, id: crypto.randomUUID(), at: Date.now() };
  await updateGame(game, (now) => ({ ...now, said: [...(now.said ?? []), one] }));
  broadcast({ type: 'changed' });
}

export async function forgetSaid(game: string, id: string): Promise<void> {
  await updateGame(game, (now) => ({ ...now, said: (now.said ?? []).filter((one) => one.id !== id) }));
  broadcast({ type: 'changed' });
}
