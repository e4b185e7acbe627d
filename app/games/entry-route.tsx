import { type ClientLoaderFunctionArgs, redirect, useRouteError } from 'react-router';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';
import { listInstalls } from '~/store';

/** Whether the server was started to show the demo. */
export function loader() {
  return { demo: process.env.REGRESSUM_DEMO === 'yes' };
}

/** The way in: the games, or where the server was started for it the demo, as long as there is nothing else. */
export async function clientLoader({ serverLoader }: ClientLoaderFunctionArgs) {
  const [{ demo }, installs] = await Promise.all([
    serverLoader<typeof loader>().catch(() => ({ demo: false })),
    listInstalls(),
  ]);
  const isElsewhere = installs.some(({ place }) => place.kind !== 'browser-disk');
  return redirect(demo && !isElsewhere ? '/demo' : '/games');
}
clientLoader.hydrate = true as const;

export function HydrateFallback() {
  return <Opening what="Regressum" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Entry() {
  return null;
}
