import { Button } from '@mantine/core';
import { useState } from 'react';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  Link,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import type { DepotId } from '#core/builds';
import { type FetchItem, fetchTotals } from '#core/fetch';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type FetchView, query } from '~/queries';
import { signIn } from '~/remote';
import { broadcast, getSession, putSession, type StoredSession } from '~/store';
import { PieceBand, PieceLegend } from './PieceBand';
import { SignInForm, type SignInOutcome, SignInFormSchema } from './SignInForm';
import { failureToWire } from '#core/failure';

interface FetchData {
  readonly view: FetchView | undefined;
  readonly session: StoredSession | undefined;
}

export async function clientLoader({ params }: ClientLoaderFunctionArgs): Promise<FetchData> {
  const [view, session] = await Promise.all([query('fetchView', params.install!), getSession()]);
  return { view, session };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

/** Signs in at the depot service or out again. Only the token is kept. */
export async function clientAction({ request }: ActionFunctionArgs): Promise<SignInOutcome> {
  const form = SignInFormSchema.parse(Object.fromEntries(await request.formData()));
  if (form.intent === 'sign-out') {
    await putSession(undefined);
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
    await putSession({ token: answer.token, account: answer.name, branches: answer.branches });
    broadcast({ type: 'changed' });
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
function bandsOf({ items, depots }: FetchView): Band[] {
  const of = (id: DepotId): FetchItem[] => items.filter(({ owner }) => owner.kind === 'depot' && owner.depot === id);
  return [
    ...depots.map(({ id, title }) => ({ id, title, items: of(id) })),
    { id: 'mods', title: 'Mods', items: items.filter(({ owner }) => owner.kind !== 'depot') },
  ];
}

export default function Fetch() {
  const { view, session } = useLoaderData<typeof clientLoader>();
  const frame = useFrame();
  if (view) return <Fetching view={view} session={session} />;
  const { install, survey } = frame;
  return (
    <StagePage
      title="Fetch"
      middle={
        <Empty
          title={survey ? 'Choose a build first' : 'Survey the folder first'}
          action={
            <Button component={Link} to={`/${install.id}/${survey ? 'choose' : 'survey'}`}>
              {survey ? 'Open Choose' : 'Open Survey'}
            </Button>
          }
        >
          What to fetch follows from the target and from what is already on disk.
        </Empty>
      }
      right={null}
    />
  );
}

const WITHOUT_FILES: Record<FetchView['withoutFiles'][number]['why'], string> = {
  'no-files': 'has no files in the catalogue: add them by hand after laying down.',
  withdrawn: 'is no longer in the catalogue and is not laid down. Select the build again to leave it out.',
  gone: 'is your own, and its files are no longer in this folder: put them back, or remove the mod.',
};

function Fetching({ view, session }: { view: FetchView; session: StoredSession | undefined }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'fetch');
  const bands = bandsOf(view);
  const totals = fetchTotals(view.items);
  const busy = job !== undefined && isUnderWay(job);
  const needsSession = view.items.some(({ owner, source }) => owner.kind === 'depot' && source.how === 'fetch');
  const all = totals.onHand + totals.moved + totals.reused + totals.fetched + totals.toFetch;
  return (
    <StagePage
      title="Fetch"
      left={
        <>
          <div className={`label ${parts.heading}`}>Depots of {view.build}</div>
          {bands.map((band) => {
            const { toFetch } = fetchTotals(band.items);
            return (
              <div key={band.id} className={parts.item} style={{ height: 52 }}>
                <span className={parts.grow}>
                  {band.title}
                  <div className="quiet">
                    {counted(band.items.length, 'file')}, {bytes(band.items.reduce((sum, { size }) => sum + size, 0))}
                  </div>
                </span>
                <span className="mono">{toFetch > 0 ? bytes(toFetch) : 'complete'}</span>
              </div>
            );
          })}
          <div className={`label ${parts.heading}`}>Not needed here</div>
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
        </div>
      }
      right={
        <>
          <div className="label">To fetch</div>
          <h2 className={parts.big}>{bytes(totals.toFetch)}</h2>
          <div className="quiet">
            of {bytes(all)}, in {counted(totals.filesToFetch, 'file')}
          </div>
          {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
          {totals.filesToFetch === 0 ? (
            <Notice tone="right">Everything for {view.build} and its mods is on this disk.</Notice>
          ) : (
            <Account view={view} session={session} needed={needsSession} />
          )}
          {view.withoutFiles.map(({ name, release, why }) => (
            <Notice key={name}>
              {name} {release} {WITHOUT_FILES[why]}
            </Notice>
          ))}
          <Section>Already available</Section>
          <Pairs
            rows={[
              { name: 'In place', value: bytes(totals.onHand) },
              { name: 'Elsewhere on disk', value: bytes(totals.moved) },
              { name: 'From other files', value: bytes(totals.reused) },
              { name: 'Fetched before', value: bytes(totals.fetched) },
            ]}
          />
        </>
      }
      action={
        <FetchAction
          busy={busy}
          blocked={needsSession && !session}
          toFetch={totals.toFetch}
          files={totals.filesToFetch}
          build={view.build}
        />
      }
    />
  );
}

function FetchAction(props: { busy: boolean; blocked: boolean; toFetch: number; files: number; build: string }) {
  const { busy, blocked, toFetch, files, build } = props;
  const { install } = useFrame();
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
          disabled={busy || blocked}
          onClick={() => void jobs.start('fetch', install.id, { target: install.target })}
        >
          {busy ? `Fetching ${build}` : `Fetch ${bytes(toFetch)} of ${build}`}
        </Button>
      </Buttons>
      {busy && <p className="quiet">Pause or cancel at the bottom of the page.</p>}
    </>
  );
}

function Account({ view, session, needed }: { view: FetchView; session: StoredSession | undefined; needed: boolean }) {
  const fetcher = useFetcher<SignInOutcome>();
  const [tries, setTries] = useState(0);
  if (!needed) return <Notice>Only mods are missing. No sign-in needed.</Notice>;
  const locked = view.needsCode.filter((name) => !session?.branches.includes(name));
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
