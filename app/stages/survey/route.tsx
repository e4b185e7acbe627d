import { lazy, Suspense } from 'react';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import { useFrame } from '~/frame/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';
import { Empty } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { reckon } from '~/reckoning/client';
import { getInstall, getLook, pastSurveys } from '~/store/installs';
import { LookButtons } from './looking';
import { LookedAt } from './QuickLook';

// The map and the lists are loaded when there is something to show in them.
const Surveyed = lazy(() => import('./Surveyed').then((module) => ({ default: module.Surveyed })));

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const id = params.install!;
  const [view, look, past] = await Promise.all([
    reckon('survey', id),
    getInstall(id).then((install) => getLook(install)),
    pastSurveys(id),
  ]);
  // A look from before the full check has nothing to add to it.
  return { view, look: look && (!view || look.at > view.at) ? look : undefined, past };
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
  const { view, look, past } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  if (view) {
    return (
      <Suspense fallback={<Opening what="the map" />}>
        <Surveyed view={view} look={look} past={past} />
      </Suspense>
    );
  }
  if (look) return <LookedAt look={look} />;
  return (
    <StagePage
      title="Survey"
      middle={
        <Empty title="Nobody has looked at this folder yet" action={<LookButtons />}>
          {install.place.kind === 'browser-disk' && `${install.title} updated itself. `}A quick look reads names, sizes
          and the few files that tell the known builds apart. The full check hashes every file: what is right, altered,
          absent, and whose the strays are. Nothing is changed.
        </Empty>
      }
      right={<p className="quiet">What is on disk is told here, depot by depot, once the folder was looked at.</p>}
    />
  );
}
