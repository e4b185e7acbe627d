import { redirect } from 'react-router';
import { jobs } from '~/jobs';
import { firstInstall } from '~/remote';
import { addInstall, listInstalls } from '~/store';
import { Opening } from './parts/Opening';

const DEMO_INSTALL = 'ferrywake';

/** Opens the first install. At the very first start the demo's folder is laid out on the browser disk. */
export async function clientLoader() {
  const [first] = await listInstalls();
  if (first) return redirect(`/${first.id}/survey`);
  const { title, folder, ownership, weights } = await firstInstall();
  // Two tabs may both come here first: one of them adds the install and starts its job.
  await navigator.locks.request('regressum-first-start', async () => {
    if ((await listInstalls()).length > 0) return;
    await addInstall({
      id: DEMO_INSTALL,
      title,
      folder,
      place: { kind: 'browser-disk' },
      tree: 't1',
      ownership,
      weights,
      changedAt: Date.now(),
      arrived: false,
    });
    // A disk that the browser may clear by itself is no place for a game; where it says no, Survey shows the room.
    await navigator.storage.persist();
    await jobs.start('seed', DEMO_INSTALL);
  });
  return redirect(`/${DEMO_INSTALL}/survey`);
}
clientLoader.hydrate = true as const;

export function HydrateFallback() {
  return <Opening what="Regressum" />;
}

export default function FirstStart() {
  return null;
}
