import { Button } from '@mantine/core';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import { isUnderWay, useJobs } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Empty } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import listing from '~/parts/listing.module.css';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import { storeOf } from '~/places';
import { query } from '~/queries';
import { getInstall } from '~/store';
import { ChangeLine } from './ChangeLine';
import { ChangeActions, ChangePanel } from './ChangePanel';
import { DriveList } from './DriveList';
import { KeptActions, KeptPanel } from './KeptPanel';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const install = await getInstall(params.install!);
  const [view, store] = await Promise.all([query('storeOfInstall', install.id), storeOf(install)]);
  return { view, free: await store?.free(), now: Date.now() };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="History" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function History() {
  const { view, free, now } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const address = useAddress();
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  if (!view) {
    return (
      <StagePage
        title="History"
        middle={
          <Empty
            title="No history here"
            action={
              <Button component={Link} to={`/${install.id}/folders`}>
                Open Folders
              </Button>
            }
          >
            Changes are recorded where Regressum may write: on the browser disk, in a folder that it was given to write,
            or through the local server.
          </Empty>
        }
        right={null}
      />
    );
  }
  const kept = view.references.find(({ id }) => id === address.get('kept'));
  const change = kept ? undefined : (view.history.find(({ id }) => id === address.get('change')) ?? view.history[0]);
  return (
    <StagePage
      title="History"
      left={<DriveList view={view} install={install} free={free} shown={kept?.id} now={now} busy={busy} />}
      middle={
        <div className={listing.middle}>
          <div className={listing.top}>
            <h2>Changes to {install.folder}</h2>
            <span className="quiet">{counted(view.history.length, 'change')}, newest first</span>
          </div>
          {view.history.length === 0 ? (
            <Empty title="No changes yet">
              Whatever Regressum changes in this folder is listed here, with the files it keeps so that you can take it
              back. So are changes by others, as the next survey finds them.
            </Empty>
          ) : (
            <ChangeLine history={view.history} shown={change?.id} />
          )}
        </div>
      }
      right={
        kept ? (
          <KeptPanel kept={kept} install={install.id} />
        ) : change ? (
          <ChangePanel change={change} history={view.history} install={install.id} />
        ) : null
      }
      action={
        kept ? (
          <KeptActions kept={kept} install={install.id} busy={busy} />
        ) : change ? (
          <ChangeActions change={change} history={view.history} install={install.id} busy={busy} />
        ) : undefined
      }
    />
  );
}
