import { Button } from '@mantine/core';
import { memo, useDeferredValue, useMemo, useState } from 'react';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  Link,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import type { DepotId } from '#core/builds';
import { type FetchItem, fetchTotals, isNowhere, wireCost } from '#core/fetch';
import { useFrame } from '~/parts/use-frame';
import { fetchReportOf, isUnderWay, jobs, latestJob, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted, duration } from '~/parts/format';
import { whyNotFetched } from '~/parts/failure-words';
import { NotPlanned } from '~/parts/NotPlanned';
import { Opening } from '~/parts/Opening';
import { Buttons, FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type FetchView, query } from '~/queries';
import { asksSignIn, signIn } from '~/remote';
import { broadcast, getInstall, getSession, putSession, type ShownJob, type StoredSession } from '~/store';
import { PieceBand, PieceLegend } from './PieceBand';
import { EarlierFetches, FetchCourse, useLastRate } from './FetchCourse';
import { FetchList } from './FetchList';
import { FetchPart, useFetchPart } from './FetchPart';
import { FetchSettings } from './FetchSettings';
import { KeepWhole } from './KeepWhole';
import { type Followed, followedBranch } from './followed-branch';
import styles from './fetch.module.css';
import { SignInForm, type SignInOutcome, SignInFormSchema } from '~/parts/SignInForm';
import { TwoWays } from './TwoWays';
import { useSources } from './use-sources';
import { failureToWire } from '#core/failure';

interface FetchData {
  readonly view: FetchView | undefined;
  readonly session: StoredSession | undefined;
  readonly followed: Followed;
}

export async function clientLoader({ params }: ClientLoaderFunctionArgs): Promise<FetchData> {
  const install = await getInstall(params.install!);
  const [view, session, followed] = await Promise.all([
    query('fetchView', install.id),
    getSession(install.game),
    followedBranch(install),
  ]);
  return { view, session, followed };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

/** Signs in at the depot service or out again. Only the token is kept. */
export async function clientAction({ request, params }: ActionFunctionArgs): Promise<SignInOutcome> {
  const form = SignInFormSchema.parse(Object.fromEntries(await request.formData()));
  const { game } = await getInstall(params.install!);
  if (form.intent === 'sign-out') {
    await putSession(game, undefined);
    broadcast({ type: 'changed' });
    return { step: 'start' };
  }
  const { name, passphrase, code, branchCode } = form;
  try {
    const answer = await signIn({
      name,
      passphrase,
      ...(code ? { code } : {}),
      ...(branchCode ? { branchCode } : {}),
    });
    if (answer.step === 'code-sent') return { step: 'code' };
    await putSession(game, { token: answer.token, account: answer.name, branches: answer.branches });
    broadcast({ type: 'changed' });
    // A fetch whose sign-in had expired goes on where it stopped.
    const last = latestJob(params.install!, 'fetch')?.record;
    if (last?.failure?.code === 'service/sign-in-needed') void jobs.again(last.id);
    return { step: 'start' };
  } catch (error) {
    return { step: code ? 'code' : 'start', failure: failureToWire(error) };
  }
}

export function HydrateFallback() {
  return <Opening what="Fetch" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

interface Band {
  readonly id: string;
  readonly title: string;
  readonly items: readonly FetchItem[];
}

/** The target's files by where they come from: a band a depot in laying order, then the mods. */
function bandsOf({ items, depots, lines }: FetchView): Band[] {
  const of = (id: DepotId): FetchItem[] => items.filter(({ owner }) => owner.kind === 'depot' && owner.depot === id);
  return [
    // A depot may be of other builds alone.
    ...depots
      .filter(({ id }) => lines.some(({ depot }) => depot.id === id))
      .map(({ id, title }) => ({ id, title, items: of(id) })),
    { id: 'mods', title: 'Mods', items: items.filter(({ owner }) => owner.kind !== 'depot') },
  ].filter((band) => band.id !== 'mods' || band.items.length > 0);
}

export default function Fetch() {
  const { view, session, followed } = useLoaderData<typeof clientLoader>();
  const frame = useFrame();
  if (view) return <Fetching view={view} session={session} followed={followed} />;
  const { service } = frame;
  return (
    <StagePage
      title="Fetch"
      middle={<NotPlanned>What to fetch follows from the target and from what is already on disk.</NotPlanned>}
      right={service ? <Account needsCode={[]} session={session} needed /> : null}
    />
  );
}

const WITHOUT_FILES: Record<FetchView['withoutFiles'][number]['why'], string> = {
  'no-files': 'has no files in the catalogue: add them by hand after laying down.',
  withdrawn: 'is no longer in the catalogue and is not laid down. Select the build again to leave it out.',
  gone: 'is your own, and its files are no longer in this folder: put them back, or remove the mod.',
};

/** How a fetch goes is told several times a second: it is drawn when nothing else is to be done. */
function Fetching(shown: FetchData & { view: FetchView }) {
  const { install } = useFrame();
  const job = useDeferredValue(useLatestJob(install.id, 'fetch'));
  return <FetchPage {...shown} job={job} />;
}

const FetchPage = memo(function FetchPage({
  view,
  session,
  followed,
  job,
}: FetchData & { view: FetchView; job: ReturnType<typeof useLatestJob> }) {
  const { install } = useFrame();
  // The page is drawn anew with every few pieces; what follows from the view alone is worked out once.
  const totals = useMemo(() => fetchTotals(view.items), [view.items]);
  const cost = useMemo(() => wireCost(view.items, view.frames), [view.items, view.frames]);
  const busy = job !== undefined && isUnderWay(job);
  const report = fetchReportOf(job?.record);
  const lastRate = useLastRate(install.id);
  const needsSession = view.items.some(({ href, source }) => source.how === 'fetch' && asksSignIn(href));
  const isBlocked = needsSession && !session;
  const isWhole = view.items.some(({ source }) => source.how === 'fetch' && source.inWhole);
  const sources = useSources(install.id, view, session, !busy);
  const bands = useMemo(() => bandsOf(view).map((band) => ({ ...band, wire: wireOf(view, band.items) })), [view]);
  const wire = cost.plain + cost.compressed;
  const fits = fitsIn(view, view.items);
  const fetchPart = useFetchPart();
  const lacking = {
    files: view.lines.reduce((sum, { nowhere }) => sum + nowhere.files, 0),
    bytes: view.lines.reduce((sum, { nowhere }) => sum + nowhere.bytes, 0),
  };
  // Nothing that a source has is left to fetch, and something that none has.
  const waits = totals.filesToFetch === 0 && lacking.files > 0;
  const all = totals.onHand + totals.moved + totals.reused + totals.beside + totals.stored + totals.toFetch;
  return (
    <StagePage
      title="Fetch"
      left={
        <>
          <div className={`label ${parts.heading}`}>Depots of {view.build}</div>
          {bands.map((band) => {
            return (
              <div key={band.id} className={parts.item} style={{ height: 52 }}>
                <span className={parts.grow}>
                  {band.title}
                  <div className="quiet">
                    {counted(band.items.length, 'file')}, {bytes(band.items.reduce((sum, { size }) => sum + size, 0))}
                  </div>
                </span>
                <span className={styles.amount}>
                  <span className="mono">{bandWords(view, band)}</span>
                  {band.wire > 0 && band.id !== 'mods' && !busy && !isBlocked && fitsIn(view, band.items) && (
                    <button
                      type="button"
                      className={styles.alone}
                      aria-label={`Fetch only ${band.title}`}
                      onClick={() => fetchPart({ depot: band.id })}
                    >
                      only this
                    </button>
                  )}
                </span>
              </div>
            );
          })}
          {view.notCounting.length > 0 && <div className={`label ${parts.heading}`}>Not needed here</div>}
          {view.notCounting.map(({ id, title, kind }) => (
            <div key={id} className={`${parts.item} quiet`}>
              <span className={parts.grow}>{title}</span>
              <span>{kind === 'add-on' ? 'not owned' : kind === 'language' ? 'other language' : 'not wanted'}</span>
            </div>
          ))}
        </>
      }
      middle={
        <div style={{ padding: '40px 16px 12px' }}>
          {bands.map((band) => (
            <PieceBand key={band.id} title={band.title} items={band.items} fetching={busy} />
          ))}
          <PieceLegend />
          {report && <FetchCourse report={report} />}
          {!busy && <TwoWays view={view} followed={followed} wire={wire} written={totals.written} />}
          <FetchList view={view} />
          <EarlierFetches install={install.id} />
        </div>
      }
      right={
        <>
          <div className="label">
            {waits ? 'Not at any source' : sources.asking ? 'On the wire, at most' : 'On the wire'}
          </div>
          <h2 className={parts.big}>{bytes(waits ? lacking.bytes : wire)}</h2>
          <div className="quiet">
            {waits
              ? `in ${counted(lacking.files, 'file')}, of ${bytes(all + lacking.bytes)}`
              : totals.filesToFetch === 0
                ? `nothing is to come, of ${bytes(all)}`
                : `for ${bytes(totals.toFetch + totals.beside)} in ${counted(totals.filesToFetch, 'file')}, of ${bytes(all + lacking.bytes)}`}
          </div>
          {sources.asking && <p className="quiet">Asking what the source gives…</p>}
          {sources.failure && totals.toFetch > 0 && (
            <Notice>
              Some of what a source has compressed cannot be used. What it is about comes as it is.
              <details className={styles.why}>
                <summary>Why</summary>
                {sources.failure}
              </details>
            </Notice>
          )}
          {job?.record.state === 'failed' && <NotFetched job={job.record} items={view.items} />}
          {totals.filesToFetch === 0 && !waits && (
            <Notice tone="right">Everything for {view.build} and its mods is on this disk.</Notice>
          )}
          {totals.filesToFetch > 0 && (needsSession || session) && (
            <Account needsCode={view.needsCode} session={session} needed={needsSession} />
          )}
          {view.withoutFiles.map(({ name, release, why }) => (
            <Notice key={name}>
              {name} {release} {WITHOUT_FILES[why]}
            </Notice>
          ))}
          {!fits && <NoRoom written={totals.written} free={view.free!} />}
          {totals.filesToFetch > 0 && (
            <>
              <Section>What it takes</Section>
              <Pairs
                rows={[
                  { name: 'On the wire, compressed', value: bytes(cost.compressed) },
                  { name: 'On the wire, as it is', value: bytes(cost.plain) },
                  { name: 'Requests, about', value: count(cost.requests) },
                  { name: 'Written to the disk', value: bytes(totals.written) },
                  ...(totals.rebuilt === 0
                    ? []
                    : [{ name: 'Of that rebuilt from old data', value: bytes(totals.rebuilt) }]),
                  ...(Number.isFinite(view.room)
                    ? [{ name: 'Room at its peak, laid down', value: bytes(view.room) }]
                    : []),
                  ...(lastRate > 0 ? [{ name: 'Time, at the rate seen last', value: duration(wire / lastRate) }] : []),
                ]}
              />
              {isWhole && <Notice>This source gives nothing in parts: a file that is cut off begins anew.</Notice>}
              <FetchSettings />
              <FetchPart view={view} busy={busy || isBlocked} />
            </>
          )}
          {Number.isFinite(view.room) && <KeepWhole build={view.build} busy={busy || isBlocked} />}
          <Section>Already available</Section>
          <Pairs
            rows={[
              { name: 'In place', value: bytes(totals.onHand) },
              { name: 'Elsewhere on disk', value: bytes(totals.moved) },
              { name: 'From other files', value: bytes(totals.reused) },
              ...(totals.beside > 0 ? [{ name: 'In your other folders', value: bytes(totals.beside) }] : []),
              { name: 'In the store', value: bytes(totals.stored) },
            ]}
          />
        </>
      }
      action={
        <FetchAction
          busy={busy}
          blocked={isBlocked}
          fits={fits}
          toFetch={wire}
          beside={totals.beside}
          files={totals.filesToFetch}
          waits={waits}
          build={view.build}
        />
      }
    />
  );
});

/** Whether the drive has room for what fetching some of it writes, as far as it tells. */
const fitsIn = ({ free }: FetchView, items: readonly FetchItem[]): boolean =>
  free === undefined || fetchTotals(items).written <= free;

/** That it cannot fit, and what makes room. */
function NoRoom({ written, free }: { written: number; free: number }) {
  const { install } = useFrame();
  return (
    <Notice tone="wrong">
      This does not fit: {bytes(written)} would be written, and {bytes(free)} are free. Fetch one depot or folder at a
      time, or delete what earlier changes keep under{' '}
      <Link className="link" to={`/${install.id}/history`}>
        History
      </Link>
      .
    </Notice>
  );
}

/**
 * Why a fetch ended early, what it could not get, and the way on without that.
 * @param items what is wanted now
 */
function NotFetched({ job, items }: { job: ShownJob; items: readonly FetchItem[] }) {
  const { install } = useFrame();
  const report = fetchReportOf(job);
  if (!job.failure) return null;
  const failed = new Set(report?.missing.map(({ path }) => path));
  const toCome = items.filter((item) => item.source.how === 'fetch' && !isNowhere(item));
  return (
    <>
      <FailureNotice failure={job.failure} />
      {report && report.missing.length > 1 && (
        <details>
          <summary>{counted(report.missing.length, 'file')} did not come</summary>
          <ul>
            {report.missing.map(({ path, why }) => (
              <li key={path}>
                <span className="mono">{path}</span>: {whyNotFetched(why)}
              </li>
            ))}
          </ul>
        </details>
      )}
      {toCome.length > 0 && toCome.every(({ path }) => failed.has(path)) && (
        <p>
          <Link className="link" to={`/${install.id}/assemble`}>
            Lay down everything else for now
          </Link>
        </p>
      )}
    </>
  );
}

/** Bytes on the wire for some of it. */
function wireOf({ frames }: FetchView, items: readonly FetchItem[]): number {
  const { plain, compressed } = wireCost(items, frames);
  return plain + compressed;
}

/** What is still to come of a band. */
function bandWords({ lines }: FetchView, { id, items, wire }: Band & { readonly wire: number }): string {
  const missing = lines.find(({ depot }) => depot.id === id)?.nowhere.files ?? 0;
  if (wire > 0) return bytes(wire);
  if (missing > 0) return `${missing} missing`;
  return fetchTotals(items).filesToFetch > 0 ? 'to copy' : 'complete';
}

interface FetchActionProps {
  readonly busy: boolean;
  readonly blocked: boolean;
  /** Whether the drive has room for what is written. */
  readonly fits: boolean;
  /** Bytes on the wire, and those that lie in other folders. */
  readonly toFetch: number;
  readonly beside: number;
  readonly files: number;
  /** Nothing is left to fetch, but something has to come by other means. */
  readonly waits: boolean;
  readonly build: string;
}

function FetchAction({ busy, blocked, fits, toFetch, beside, files, waits, build }: FetchActionProps) {
  const { install } = useFrame();
  if (waits) {
    return (
      <Button variant="default" component={Link} to={`/${install.id}/survey`}>
        Open Survey to check the folder again
      </Button>
    );
  }
  if (files === 0) {
    return (
      <Button component={Link} to={`/${install.id}/assemble`}>
        Open Assemble to lay down {build}
      </Button>
    );
  }
  return (
    <>
      {blocked && <p className="quiet">Sign in to fetch from the depot service.</p>}
      <Buttons>
        <Button
          disabled={busy || blocked || !fits}
          onClick={() => void jobs.start('fetch', install.id, { target: install.target })}
        >
          {busy
            ? `Fetching ${build}`
            : toFetch === 0 && beside > 0
              ? `Take ${bytes(beside)} from your other folders`
              : `Fetch ${bytes(toFetch)} of ${build}`}
        </Button>
      </Buttons>
      {busy && <p className="quiet">Pause or cancel at the bottom of the page.</p>}
    </>
  );
}

function Account({
  needsCode,
  session,
  needed,
}: {
  /** Branches that need a code to be opened. */
  needsCode: readonly string[];
  session: StoredSession | undefined;
  needed: boolean;
}) {
  const fetcher = useFetcher<SignInOutcome>();
  const [tries, setTries] = useState(0);
  if (!needed) return <Notice>Only mods are missing. No sign-in needed.</Notice>;
  const locked = needsCode.filter((name) => !session?.branches.includes(name));
  if (session && locked.length === 0) {
    return (
      <>
        <Section>Signed in</Section>
        <p>
          as {session.account}. <span className="quiet">Only a token is kept, never the passphrase.</span>
        </p>
        <fetcher.Form method="post">
          <Button type="submit" name="intent" value="sign-out" size="xs" variant="default">
            Sign out
          </Button>
        </fetcher.Form>
      </>
    );
  }
  return <SignInForm key={tries} fetcher={fetcher} locked={locked} startOver={() => setTries(tries + 1)} />;
}
