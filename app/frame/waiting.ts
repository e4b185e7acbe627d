import type { FrameView } from '~/queries';

/** Mods in folders that are followed of which nobody has decided what is to become. */
export const waitingIn = ({ followed = [] }: FrameView['install']): string[] =>
  followed.flatMap(({ waiting }) => waiting);
