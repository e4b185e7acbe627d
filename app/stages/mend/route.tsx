import { Button } from '@mantine/core';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  Link,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { BuildLabelSchema } from '#core/builds';
import type { MendStep } from '#core/mend';
import { shortenMiddle } from '#core/text';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { EvidenceLevelSelect } from '~/parts/EvidenceLevelSelect';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { GameStart } from '~/parts/GameStart';
import { authorWords, modNames } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, Figure, Figures, ItemLink, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { Reasons } from '~/parts/Reasons';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { type MendView, query } from '~/queries';
import { broadcast, listTrials, type Target, updateInstall } from '~/store';
import styles from './mend.module.css';
import { PatchBand } from './PatchBand';

export async function clientLoader({ params, request }: ClientLoaderFunctionArgs) {
  const asked = BuildLabelSchema.safeParse(new URL(request.url).searchParams.get('to'));
  const [view, trials] = await Promise.all([
    query('mend', params.install!, asked.success ? asked.data : undefined),
    listTrials(params.install!),
  ]);
  return { view, trials };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

/** Makes the mended set the target, fetches what it needs and lays it down. */
export async function clientAction({ params, request }: ActionFunctionArgs) {
  const to = BuildLabelSchema.parse((await request.formData()).get('to'));
  const install = params.install!;
  const view = await query('mend', install, to);
  if (!view) return null;
  const { choice, order } = view;
  const target: Target = { build: to, releases: [...choice.runs], order, decidedBy: 'mend', at: Date.now() };
  await updateInstall(install, (now) => ({ ...now, target }));
  broadcast({ type: 'changed' });
  await jobs.start('fetch', install, { target, thenLayDown: true });
  return null;
}

export function HydrateFallback() {
  return <Opening what="Mend" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Mend() {
  const { view, trials } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  if (!view) {
    return (
      <StagePage
        title="Mend"
        middle={
          <Empty
            title="Survey the folder first"
            action={
              <Button component={Link} to={`/${install.id}/survey`}>
                Open Survey
              </Button>
            }
          >
            What a patch changes is worked out from the build on disk.
          </Empty>
        }
        right={null}
      />
    );
  }
  return <Mending view={view} trials={trials} />;
}

const ACTIONS: Record<MendStep['action'], string> = {
  keep: 'keep',
  update: 'update',
  'go-back': 'go back',
  add: 'add',
  bench: 'bench',
};

function Mending({ view, trials }: { view: MendView; trials: Awaited<ReturnType<typeof listTrials>> }) {
  const frame = useFrame();
  const address = useAddress();
  const names = modNames(view.catalogue);
  const selected = view.steps.find(({ mod }) => mod === address.get('mod'));
  const of = (...actions: MendStep['action'][]): number =>
    view.steps.filter(({ action }) => actions.includes(action)).length;
  return (
    <StagePage
      title="Mend"
      left={
        <>
          <div className={`label ${parts.heading}`}>Update order</div>
          {view.steps.map((step, i) => (
            <ItemLink key={step.mod} changes={{ mod: step.mod }} current={step === selected}>
              <span className="mono quiet">{i + 1}</span>
              <span className={parts.grow}>{names.get(step.mod)}</span>
              <span className={styles.action} data-action={step.action}>
                {ACTIONS[step.action]}
              </span>
            </ItemLink>
          ))}
        </>
      }
      middle={
        <div className={styles.middle}>
          <PatchBand view={view} touched={selected ? view.touched.get(selected.mod) : undefined} />
          <table className={styles.steps}>
            <thead>
              <tr>
                <th>Mod</th>
                <th>Now</th>
                <th>At {view.to}</th>
                <th>Verdict</th>
                <th>Changed files used</th>
              </tr>
            </thead>
            <tbody>
              {view.steps.map(({ mod, from, to, verdict }) => (
                <tr key={mod} aria-current={mod === selected?.mod ? 'true' : undefined}>
                  <td>{names.get(mod)}</td>
                  <td className="mono">{from ?? '–'}</td>
                  <td className="mono">{to ?? 'bench'}</td>
                  <td>
                    <span className={styles.verdict} data-verdict={verdict}>
                      {verdict}
                    </span>
                  </td>
                  <td className="mono">{view.touched.get(mod)?.length || ''}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      }
      right={
        <>
          <div className="label">
            {view.from} to {view.to}
          </div>
          <h2 className={parts.big}>{counted(view.changes.length, 'file')} differ</h2>
          <Figures>
            <Figure value={count(of('keep'))} label="keep" color="var(--teal)" />
            <Figure value={count(of('update', 'add', 'go-back'))} label="change" color="var(--blue)" />
            <Figure value={count(of('bench'))} label="bench" color="var(--brick)" />
          </Figures>
          {selected ? (
            <StepDetails step={selected} view={view} names={names} />
          ) : (
            <p className="quiet">Select a mod to see its evidence.</p>
          )}
          <EvidenceLevelSelect level={view.level} />
          <GameStart view={frame} trials={trials} names={names} />
        </>
      }
      action={<MendAction view={view} />}
    />
  );
}

function StepDetails({ step, view, names }: { step: MendStep; view: MendView; names: ReadonlyMap<string, string> }) {
  const mod = view.catalogue.mods.find(({ id }) => id === step.mod)!;
  const touched = view.touched.get(step.mod) ?? [];
  const note = mod.releases.find(({ version }) => version === (step.to ?? step.from))?.note;
  return (
    <>
      <Section>{mod.name}</Section>
      <p className="quiet">
        {mod.summary} {authorWords(mod)}
      </p>
      <Pairs
        rows={[
          { name: ACTIONS[step.action], value: `${step.from ?? '–'} → ${step.to ?? 'bench'}` },
          { name: 'Verdict', value: step.verdict },
        ]}
      />
      <Reasons reasons={step.reasons} build={view.to} names={names} />
      {touched.length > 0 && (
        <>
          <p>It replaces, edits or reads these changed files:</p>
          <ul className="mono">
            {touched.map((path) => (
              <li key={path}>{shortenMiddle(path, 36)}</li>
            ))}
          </ul>
        </>
      )}
      {note && <Notice>{note}</Notice>}
    </>
  );
}

function MendAction({ view }: { view: MendView }) {
  const { install, toFetch, held, likeliest, laid } = useFrame();
  const fetcher = useFetcher();
  const job = useLatestJob(install.id, 'fetch', 'assemble');
  const busy = (job !== undefined && isUnderWay(job)) || fetcher.state !== 'idle';
  const done = laid && likeliest === view.to && install.target?.build === view.to;
  if (done) return <Notice tone="right">{view.to} is laid down with the mods that run on it.</Notice>;
  return (
    <>
      {held && (
        <p className="quiet">
          {held.build} is held.{' '}
          <Link className="link" to={`/${install.id}/hold`}>
            Release the hold
          </Link>{' '}
          first.
        </p>
      )}
      {job?.record.state === 'failed' && job.record.failure?.code === 'service/sign-in-needed' && (
        <p className="quiet">
          <Link className="link" to={`/${install.id}/fetch`}>
            Sign in under Fetch
          </Link>
          , then try again.
        </p>
      )}
      {toFetch && install.target?.build === view.to && toFetch.bytes > 0 && (
        <p className="quiet">{bytes(toFetch.bytes)} to fetch.</p>
      )}
      <fetcher.Form method="post">
        <input type="hidden" name="to" value={view.to} />
        <Buttons>
          <Button type="submit" disabled={busy || held !== undefined}>
            Fetch and lay down {view.to} with {counted(view.choice.runs.size, 'mod')}
          </Button>
        </Buttons>
      </fetcher.Form>
    </>
  );
}
