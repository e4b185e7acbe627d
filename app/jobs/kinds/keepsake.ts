import { keeping } from '~/changes';
import { getInstall } from '~/store';
import { type Kind, uncounted } from '../job-context';
import { keepOwn } from './keep-own';

/** Keeps the player's own files as they are now: saves, settings, own content, from all of their places. */
export const keepsake: Kind = {
  async run(context) {
    const kept = await keepOwn(context, context.id, { why: 'asked' }, { inPart: true });
    if (kept?.unread) context.tell({ unread: [...kept.unread] });
  },
  async undo(context) {
    const changes = await keeping(await getInstall(context.install));
    await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake: context.id });
  },
};
