import { lazy, Suspense, useCallback, useEffect, useState } from 'react';
import { type ClientLoaderFunctionArgs, Outlet, useLoaderData, useLocation, useRouteError } from 'react-router';
import { jobs, useJobs } from '~/jobs';
import { BroughtOver } from '~/parts/BroughtOver';
import { FailurePage } from '~/parts/FailurePage';
import { Textures } from '~/parts/Textures';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { useFreshData } from '~/parts/use-fresh-data';
import { type FrameView, query } from '~/queries';
import { getInstall, type Install } from '~/store';
import { type Changing, changingOf } from '~/places';
import { Arriving } from './Arriving';
import { BuildLine } from './BuildLine';
import { DropAnywhere } from './DropAnywhere';
import styles from './frame.module.css';
import { Keys } from './Keys';
import { LoadAhead } from './LoadAhead';
import { LATER } from './later';
import { Standing } from './Standing';
import { StandIns } from './StandIns';
import { TopBar } from './TopBar';
import { Tray } from './Tray';
import { UnhandledFailures } from './UnhandledFailures';

const JobTitle = lazy(() => import('./JobTitle'));
/** It looks only once the page is there, and comes only then. */
const DriftWatch = lazy(() => import('./DriftWatch'));
const LookOnly = lazy(LATER.LookOnly);
const ServerAway = lazy(LATER.ServerAway);
const Unfinished = lazy(LATER.Unfinished);

/** After the page has opened. */
const WATCHES_AFTER_MS = 2_000;

/** Whether so many milliseconds have gone by. */
function useLater(after: number): boolean {
  const [isLater, setLater] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLater(true), after);
    return () => clearTimeout(timer);
  }, [after]);
  return isLater;
}

/** The stages that write into the folder. */
const CHANGING = ['/fetch', '/assemble', '/hold', '/mend', '/narrow'];

export type FrameData = { arrived: true; view: FrameView; changing: Changing } | { arrived: false; install: Install };

export async function clientLoader({ params }: ClientLoaderFunctionArgs): Promise<FrameData> {
  await jobs.adopt();
  const install = await getInstall(params.install!);
  if (!install.arrived) return { arrived: false, install };
  const [changing, view] = await Promise.all([changingOf(install.place), query('frame', install.id)]);
  return { arrived: true, changing, view };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <div className={styles.opening}>Opening Regressum</div>;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function FrameRoute() {
  const data = useLoaderData<typeof clientLoader>();
  const all = useJobs();
  const [asked, setAsked] = useState(0);
  const ask = useCallback(() => setAsked((times) => times + 1), []);
  const watches = useLater(WATCHES_AFTER_MS);
  const [standing, setStanding] = useState(false);
  const showStanding = useCallback(() => setStanding(true), []);
  const { pathname } = useLocation();
  useFreshData();
  if (!data.arrived) return <Arriving install={data.install} />;
  const { view, changing } = data;
  const canOnlyLook = changing !== 'may' && CHANGING.some((stage) => pathname.endsWith(stage));
  return (
    <div className={styles.frame}>
      <Textures />
      <TopBar view={view} findCommand={ask} />
      <div>
        <BuildLine view={view} />
        <Standing key={view.install.id} view={view} asked={standing} onClose={() => setStanding(false)} />
        <UnhandledFailures />
        <div className={styles.told}>
          <BroughtOver />
          {(changing === 'other-start' || changing === 'unreachable') && (
            <Suspense>
              <ServerAway changing={changing} />
            </Suspense>
          )}
          {view.unfinished.length > 0 && (
            <Suspense>
              <Unfinished view={view} />
            </Suspense>
          )}
        </div>
      </div>
      <div className={styles.stage}>
        {canOnlyLook ? (
          <Suspense>
            <LookOnly install={view.install} changing={changing} />
          </Suspense>
        ) : (
          <Outlet context={view} />
        )}
        {view.service && <StandIns install={view.install} />}
      </div>
      <Suspense>
        <JobTitle />
      </Suspense>
      <Tray jobs={all.filter(({ record }) => record.install === view.install.id)} install={view.install} />
      <Keys view={view} asked={asked} ask={ask} showStanding={showStanding} />
      <DropAnywhere open={view.install} />
      <LoadAhead install={view.install.id} />
      {watches && (
        <Suspense>
          <DriftWatch install={view.install} />
        </Suspense>
      )}
    </div>
  );
}
