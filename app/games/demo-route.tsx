import { redirect, useRouteError } from 'react-router';
import { openDemo } from '~/commands';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';

export async function clientLoader() {
  return redirect(`/${await openDemo()}/survey`);
}
clientLoader.hydrate = true as const;

export function HydrateFallback() {
  return <Opening what="the demo" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function DemoRoute() {
  return null;
}
