import { Button } from '@mantine/core';
import { useState } from 'react';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import type { KeepsakeHead } from '#core/keepsakes';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Ago, Empty, FailureNotice, ItemLink, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import { type KeepsakesView, query, useQuery } from '~/queries';
import { failureToWire } from '#core/failure';
import { getInstall, listInstalls } from '~/store';
import listing from '~/parts/listing.module.css';
import { BringArchive } from './BringArchive';
import { BringOwn } from './BringOwn';
import { KeptFiles } from './KeptFiles';
import { isAskedAboutCopies, KeptIn } from './KeptIn';
import styles from './keepsakes.module.css';
import { modsWords, whyWords } from './keepsake-words';
import { KeepsakeRetention } from './KeepsakeRetention';
import { OwnPlaces } from './OwnPlaces';
import { KeepsakeActions, KeepsakePanel } from './KeepsakePanel';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const { game } = await getInstall(params.install!);
  const others = (await listInstalls()).filter(
    ({ id, game: other, place }) => id !== params.install && other === game && place.kind !== 'list',
  );
  return {
    view: await query('keepsakes', params.install!),
    others: others.map(({ id, title }) => ({ id, title })),
    now: Date.now(),
  };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="Keepsakes" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

function KeepsakeItem({ keepsake, current, isCopy }: { keepsake: KeepsakeHead; current: boolean; isCopy: boolean }) {
  const { id, at, build, files, bytes: size } = keepsake;
  return (
    <ItemLink changes={{ keepsake: id }} current={current}>
      <span className={styles.knot} data-why={keepsake.why} aria-hidden="true" />
      <span className={parts.grow}>
        <Ago at={at} />
        <div className="quiet">
          {[isCopy && 'Only a copy is left', whyWords(keepsake), modsWords(keepsake)].filter(Boolean).join(' · ')}
          <br />
          {counted(files, 'file')} · {bytes(size)}
        </div>
      </span>
      <span className="mono">{build ?? '–'}</span>
    </ItemLink>
  );
}

function KeepNow({ view, busy, quiet }: { view: KeepsakesView; busy: boolean; quiet: boolean }) {
  const { install } = useFrame();
  const files = view.places.reduce((sum, place) => sum + place.files, 0);
  return (
    <Button
      {...(quiet && { size: 'xs', variant: 'default' })}
      disabled={busy || files === 0}
      onClick={() => void jobs.start('keepsake', install.id)}
    >
      Keep {counted(files, 'file')} as {files === 1 ? 'it is' : 'they are'} now
    </Button>
  );
}

export default function Keepsakes() {
  const { view, others, now } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const address = useAddress();
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const shown = view.keepsakes.find(({ id }) => id === address.get('keepsake')) ?? view.keepsakes[0];
  // Read anew when anything of it may have changed: the loader runs again after each job.
  const { value, failure } = useQuery('keepsakeView', shown && [install.id, shown.id], now);
  const [left, setLeft] = useState<{ id: string; names: ReadonlySet<string> }>();
  const leaves = left && left.id === shown?.id ? left.names : NONE;
  const asks = isAskedAboutCopies(view, install);
  const neededBy = shown && view.needed.get(shown.id);
  return (
    <StagePage
      title="Keepsakes"
      left={
        <>
          {asks && <KeptIn view={view} now={now} busy={busy} />}
          <div className={`label ${parts.heading}`}>Keepsakes</div>
          {view.keepsakes.length === 0 && <p className={`quiet ${listing.line}`}>None yet.</p>}
          {view.keepsakes.map((keepsake) => (
            <KeepsakeItem
              key={keepsake.id}
              keepsake={keepsake}
              current={keepsake.id === shown?.id}
              isCopy={view.lies !== 'browser' && view.onlyCopied.has(keepsake.id)}
            />
          ))}
          {view.unreadable.length > 0 && (
            <div className={listing.line}>
              <Notice>
                {counted(view.unreadable.length, 'keepsake')} cannot be read, perhaps since a newer Regressum wrote
                {view.unreadable.length === 1 ? ' it' : ' them'}.
              </Notice>
            </div>
          )}
          {!asks && <KeptIn view={view} now={now} busy={busy} />}
          <OwnPlaces view={view} />
          <BringArchive busy={busy} />
          <BringOwn others={others} busy={busy} />
          <KeepsakeRetention view={view} now={now} busy={busy} />
        </>
      }
      middle={
        shown ? (
          <KeptFiles head={shown} view={value} leaves={leaves} onLeave={(names) => setLeft({ id: shown.id, names })} />
        ) : (
          <Empty title="Nothing is kept yet" action={<KeepNow view={view} busy={busy} quiet={false} />}>
            A keepsake is a dated copy of your saves, settings and own content. Regressum makes one before each change
            that could touch them; make one by hand whenever you like.
          </Empty>
        )
      }
      right={
        shown && (
          <>
            {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
            <KeepsakePanel
              {...{ head: shown, view: value, leaves, inFolder: view.inFolder, neededBy }}
              isCopy={view.inFolder && view.onlyCopied.has(shown.id)}
            />
          </>
        )
      }
      action={
        shown && (
          <KeepsakeActions
            key={shown.id}
            head={shown}
            view={value}
            leaves={leaves}
            inFolder={view.inFolder}
            neededBy={neededBy}
            busy={busy}
            more={<KeepNow view={view} busy={busy} quiet />}
          />
        )
      }
    />
  );
}

const NONE: ReadonlySet<string> = new Set();
