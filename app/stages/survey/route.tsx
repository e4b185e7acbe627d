import { lazy, Suspense } from 'react';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import { useFrame } from '~/parts/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';
import { Empty } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { canChange } from '~/places';
import { query } from '~/queries';
import { getInstall, getLook, pastSurveys } from '~/store';
import { LookButtons } from './looking';
import { LookedAt } from './QuickLook';

// The map and the lists are loaded when there is something to show in them.
const Surveyed = lazy(() => import('./Surveyed').then((module) => ({ default: module.Surveyed })));

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const id = params.install!;
  const install = await getInstall(id);
  const [view, look, past, isWritable] = await Promise.all([
    query('survey', id),
    getLook(install),
    pastSurveys(id),
    canChange(install.place),
  ]);
  // A look from before the full check has nothing to add to it.
  return {
    view,
    look: look && (!view || look.at > view.at) ? look : undefined,
    past,
    canClean: isWritable || install.place.kind === 'picked',
  };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="Survey" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Survey() {
  const { view, look, past, canClean } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  if (view) {
    return (
      <Suspense fallback={<Opening what="the map" />}>
        <Surveyed view={view} look={look} past={past} canClean={canClean} />
      </Suspense>
    );
  }
  if (look) return <LookedAt look={look} />;
  return (
    <StagePage
      title="Survey"
      middle={
        <Empty title="This folder has not been checked yet" action={<LookButtons />}>
          {install.place.kind === 'browser-disk' && `${install.title} updated itself. `}A quick look reads names, sizes
          and a few sampled files to name the build. The full check reads every file and shows what is correct, changed,
          missing or stray, and who owns it. Nothing is changed.
        </Empty>
      }
      right={<p className="quiet">What is on disk appears here, depot by depot, after the first check.</p>}
    />
  );
}
