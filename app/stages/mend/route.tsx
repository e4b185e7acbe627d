import { Button, Select } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useState } from 'react';
import {
  type ClientLoaderFunctionArgs,
  Link,
  replace,
  type ShouldRevalidateFunctionArgs,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { BuildLabelSchema, buildOrder, headBuild } from '#core/builds';
import type { Said, WorkItem } from '#core/mend';
import { layDownAll, lookForReleases, takeOut, takeSteps } from '~/commands';
import { isUnderWay, useLatestJob } from '~/jobs';
import { EvidenceLevelSelect } from '~/parts/EvidenceLevelSelect';
import { FailurePage } from '~/parts/FailurePage';
import { FilterInput } from '~/parts/FilterInput';
import { bytes, count, counted } from '~/parts/format';
import { HeldFirst } from '~/parts/HeldFirst';
import { GameStart } from '~/parts/GameStart';
import { Misplaced } from '~/parts/Misplaced';
import { modNames, moveWords } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, Figure, Figures, ItemLink, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { saveFile } from '~/parts/save-file';
import { StagePage } from '~/parts/StagePage';
import { SurveyFirst } from '~/parts/SurveyFirst';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { type Attempts, useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type MendedView, type MendView, query } from '~/queries';
import { getGame, getInstall, listTrials } from '~/store';
import { CHANGES } from './band';
import { countOf, type Filter, filtered, FILTERS, nextStep } from './filters';
import { Groups } from './Groups';
import { LoadCheck } from './LoadCheck';
import styles from './mend.module.css';
import { dueWords, leftWords, notRunning, stepWords } from './mend-words';
import { mendReport } from './report';
import { StepPanel } from './StepPanel';
import { WorkPicture } from './WorkPicture';

export async function clientLoader({ params, request }: ClientLoaderFunctionArgs) {
  const address = new URL(request.url);
  const asked = BuildLabelSchema.safeParse(address.searchParams.get('build'));
  const install = params.install!;
  const [view, mended, trials, { said = [] }] = await Promise.all([
    query('mend', install, asked.success ? asked.data : undefined),
    query('mended', install),
    listTrials(install),
    getInstall(install).then(({ game }) => getGame(game)),
  ]);
  // The build that the page speaks of stands in the address: the build line shows the same.
  if (view && view.to !== address.searchParams.get('build')) {
    address.searchParams.set('build', view.to);
    throw replace(`${address.pathname}${address.search}`);
  }
  return { view, mended, trials, said };
}
clientLoader.hydrate = true as const;

const buildIn = ({ searchParams }: URL): string | null => searchParams.get('build');

/** Another build is another question; what else is looked at is not. */
export function shouldRevalidate(next: ShouldRevalidateFunctionArgs): boolean {
  return buildIn(next.currentUrl) !== buildIn(next.nextUrl) || unlessOnlyLookedAt(next);
}

export function HydrateFallback() {
  return <Opening what="Mend" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Mend() {
  const { view, ...rest } = useLoaderData<typeof clientLoader>();
  if (!view) return <SurveyFirst stage="Mend">What a patch changes is worked out from the build on disk.</SurveyFirst>;
  return <Mending view={view} {...rest} />;
}

const FILTER_WORDS: Record<Filter, string> = {
  all: 'All mods',
  'to-do': 'Still to do',
  update: 'Update available',
  touched: 'Use changed files',
  'in-doubt': 'In doubt',
  choice: 'Need your choice',
  unmaintained: 'No longer maintained',
  done: 'Done',
};

interface MendingProps {
  readonly view: MendView;
  readonly mended: readonly MendedView[];
  readonly trials: Awaited<ReturnType<typeof listTrials>>;
  readonly said: readonly Said[];
}

/** What may be done with the mods at hand, and what keeps from it. */
interface Work {
  readonly at: Attempts;
  /** Something is under way in the folder, or it is held. */
  readonly busy: boolean;
  readonly next: WorkItem | undefined;
  readonly selected: WorkItem | undefined;
  /** Takes a step alone, with what comes along. */
  readonly take: (item: WorkItem) => void;
}

function useWork(view: MendView): Work {
  const { install, held } = useFrame();
  const at = useAttempt();
  const job = useLatestJob(install.id, 'fetch', 'assemble');
  const asked = useAddress().get('mod');
  return {
    at,
    busy: (job !== undefined && isUnderWay(job)) || held !== undefined,
    next: nextStep(view.items, view),
    selected: view.items.find(({ mod }) => mod === asked),
    take: ({ mod, to }) =>
      at.attempt(() =>
        to === undefined
          ? takeOut(install.id, { build: view.to, mod, isThere: true }, notRunning(view.to))
          : takeSteps(install.id, view.to, [{ mod, to }]),
      ),
  };
}

function Mending({ view, mended, trials, said }: MendingProps) {
  const frame = useFrame();
  const address = useAddress();
  const names = modNames(view.catalogue);
  const work = useWork(view);
  const [checking, setChecking] = useState(false);
  const { selected, next, at, busy } = work;
  const filter = FILTERS.find((one) => one === address.get('only')) ?? 'all';
  const rows = filtered(view.items, filter, view, { words: address.get('filter') ?? '', names });
  const here = mended.filter(({ build, isTakenBack }) => build === view.to && !isTakenBack);
  const canStep = view.onDisk === view.to && !busy && !at.busy;
  useHotkeys([
    ['n', () => next && address.set({ mod: next.mod })],
    // What wants a choice is not done by a key alone.
    ['d', () => canStep && selected?.state === 'open' && !view.undecided.has(selected.mod) && work.take(selected)],
  ]);
  return (
    <StagePage
      title="Mend"
      left={
        <>
          <div className={`label ${parts.heading}`}>Work list</div>
          {FILTERS.map((one) => {
            const mods = countOf(view.items, one, view);
            return (
              (mods > 0 || one === 'all' || one === filter) && (
                <ItemLink key={one} changes={{ only: one === 'all' ? undefined : one }} current={one === filter}>
                  <span className={parts.grow}>{FILTER_WORDS[one]}</span>
                  <span className="mono quiet">{count(mods)}</span>
                </ItemLink>
              )
            );
          })}
          <div className={styles.group}>
            <Misplaced install={frame.install.id} busy={busy} since={view.at} />
          </div>
          <Due view={view} names={names} />
          <Groups view={view} at={at} busy={busy} />
          <Done view={view} mended={mended} />
        </>
      }
      middle={
        <div className={styles.middle}>
          <div className={styles.tools}>
            <FilterInput name="filter" label="Filter mods by name" placeholder="Filter mods" width={150} />
            <span className="quiet">
              {rows.length === view.items.length
                ? counted(rows.length, 'mod')
                : `${count(rows.length)} of ${counted(view.items.length, 'mod')}`}
            </span>
            <ChangeKinds view={view} />
          </div>
          {rows.length === 0 ? (
            <NoRows view={view} />
          ) : (
            <WorkPicture view={view} rows={rows} names={names} next={next} selected={selected} />
          )}
        </div>
      }
      right={
        <>
          {selected ? (
            <StepPanel
              key={selected.mod}
              item={selected}
              view={view}
              names={names}
              busy={busy}
              at={at}
              said={said}
              trials={trials}
              last={here.find(({ moves }) => moves.some(({ mod }) => mod === selected.mod))}
            />
          ) : (
            <Overview view={view} />
          )}
          <EvidenceLevelSelect level={view.level} />
          <GameStart view={frame} trials={trials} names={names} />
          {view.here.size > 0 && (
            <Button mt={8} size="xs" variant="default" onClick={() => setChecking(true)}>
              Check that mods load…
            </Button>
          )}
          {checking && <LoadCheck view={view} trials={trials} at={at} onClose={() => setChecking(false)} />}
        </>
      }
      action={<MendAction view={view} work={work} names={names} />}
    />
  );
}

/** Why the list is empty, and what helps. */
function NoRows({ view }: { view: MendView }) {
  const { install } = useFrame();
  if (view.items.length > 0) return <p className={`quiet ${styles.group}`}>No mod matches the filter.</p>;
  return (
    <Empty
      title="No mods are wanted yet"
      action={
        <Button component={Link} to={`/${install.id}/mods`}>
          Add mods
        </Button>
      }
    >
      {view.here.size > 0
        ? `${counted(view.here.size, 'known mod')} found in the folder: add them to your mods to have them mended.`
        : 'Add the mods that you play with: from the folder, a table, or by hand.'}
    </Empty>
  );
}

/** How many files the patch changed, and how. */
function ChangeKinds({ view: { changes, from, to } }: { view: MendView }) {
  if (from === to) return null;
  return (
    <ul className={styles.changes} aria-label={`Files changed from ${from} to ${to}`}>
      {CHANGES.map((kind) => {
        const of = changes.filter(({ change }) => change === kind);
        return (
          of.length > 0 && (
            <li key={kind} title={bytes(of.reduce((sum, { bytes: size }) => sum + size, 0))}>
              <svg width="12" height="12" aria-hidden="true">
                <rect width="12" height="12" className={styles[kind]} />
              </svg>{' '}
              {count(of.length)} {kind}
            </li>
          )
        );
      })}
    </ul>
  );
}

/** Asks the game's sources whether there are new releases, and says which. */
function NewReleases() {
  const { install } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const [found, setFound] = useState<Awaited<ReturnType<typeof lookForReleases>>>();
  return (
    <>
      <Button
        my={8}
        size="xs"
        variant="default"
        loading={busy}
        onClick={() => attempt(async () => setFound(await lookForReleases(install.game)))}
      >
        Look for new releases
      </Button>
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      {found && (
        <Notice tone={found.length > 0 ? 'attention' : 'right'}>
          {found.length === 0
            ? 'No new releases.'
            : `New: ${found
                .slice(0, MOST_NEW)
                .map(({ name, version }) => `${name} ${version}`)
                .join(', ')}${found.length > MOST_NEW ? ` and ${found.length - MOST_NEW} more` : ''}.`}
        </Notice>
      )}
    </>
  );
}

const MOST_NEW = 12;

/** Where the whole stands, while no mod is selected. */
function Overview({ view }: { view: MendView }) {
  const address = useAddress();
  const { index, install } = useFrame();
  // What a branch leads to that wants no code, and what is older than that, is out.
  const head = headBuild(index);
  const isOut = head === undefined || buildOrder(index, view.to) <= buildOrder(index, head);
  const of = (state: WorkItem['state']): number => view.items.filter((item) => item.state === state).length;
  return (
    <>
      <div className="label">{view.from === view.to ? `At ${view.to}` : `${view.from} to ${view.to}`}</div>
      <h2 className={parts.big}>{leftWords(view.items)}</h2>
      <Figures>
        <Figure value={count(of('done'))} label="done" color="var(--teal)" />
        <Figure value={count(of('open') + of('blocked'))} label="to do" color="var(--blue)" />
        <Figure value={count(view.bench.length)} label="on the bench" color="var(--ochre-fill)" />
      </Figures>
      {view.from !== view.to && <p className="quiet">{counted(view.changes.length, 'file')} of the game differ.</p>}
      {!isOut && <Notice>{view.to} is not out on an open branch yet: this is a forecast from its manifests.</Notice>}
      <Select
        size="xs"
        label="Build that the mods are mended for"
        allowDeselect={false}
        data={index.builds.map(({ label }) => label as string).toReversed()}
        value={view.to}
        onChange={(build) => build !== null && address.set({ build })}
      />
      <NewReleases />
      <p>
        <Link className="link" to={`/${install.id}/order`}>
          Load order
        </Link>{' '}
        ·{' '}
        <Link className="link" to={`/${install.id}/carry?build=${encodeURIComponent(view.to)}`}>
          Carry mods forward
        </Link>{' '}
        ·{' '}
        <Link className="link" to={`/${install.id}/narrow`}>
          Find what breaks it
        </Link>
      </p>
      <p className="quiet">Select a mod to see its releases and take its step.</p>
    </>
  );
}

/** Mods on the bench whose time has come. */
function Due({ view, names }: { view: MendView; names: ReadonlyMap<string, string> }) {
  const due = view.bench.filter(({ isDue }) => isDue);
  if (due.length === 0) return null;
  return (
    <section aria-label="Due back from the bench">
      <h2 className={`label ${parts.heading}`}>Due back from the bench</h2>
      {due.map((benched) => (
        <ItemLink key={benched.mod} changes={{ mod: benched.mod }} current={false}>
          <span className={parts.grow}>
            {names.get(benched.mod) ?? benched.mod}
            <div className="quiet">{dueWords(benched)}</div>
          </span>
        </ItemLink>
      ))}
    </section>
  );
}

/** What was done at this build, newest first, and a report of it. */
function Done({ view, mended }: Pick<MendingProps, 'view' | 'mended'>) {
  const { index, install } = useFrame();
  const own = mended.filter(({ build }) => build === view.to);
  return (
    <section aria-label="Done so far" className={styles.box}>
      <h2 className={`label ${parts.heading}`}>Done so far</h2>
      <ul className={styles.doneList}>
        {own.slice(0, MOST_DONE).map(({ id, moves, from, isTakenBack }) => (
          <li key={id} data-taken-back={isTakenBack || undefined}>
            {moves.length === 1 ? moveWords(moves[0]!, moves[0]!.name) : counted(moves.length, 'mod')}
            {from !== undefined && `, the game from ${from}`}
            {isTakenBack && <span className="quiet"> taken back</span>}
          </li>
        ))}
      </ul>
      {own.length === 0 && <p className={`quiet ${styles.group}`}>No mod was changed at {view.to} yet.</p>}
      <div className={styles.group}>
        <Button
          size="xs"
          variant="default"
          onClick={() =>
            saveFile(`${install.id}-${view.to}-report.md`, mendReport(index.game.title, view, own), 'text/markdown')
          }
        >
          Save a report
        </Button>
      </div>
    </section>
  );
}

const MOST_DONE = 12;

function MendAction({ view, work, names }: { view: MendView; work: Work; names: ReadonlyMap<string, string> }) {
  const { install, toFetch } = useFrame();
  const { at, busy, next, selected, take } = work;
  const job = useLatestJob(install.id, 'fetch', 'assemble');
  const stuck = busy || at.busy;
  const isThere = view.onDisk === view.to;
  const step = selected && selected.state !== 'done' ? selected : next;
  const open = view.items.filter(({ state }) => state !== 'done').length;
  return (
    <>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      <HeldFirst why="first" />
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
      {isThere && open === 0 && <Notice tone="right">{view.to} is laid down with the mods that run on it.</Notice>}
      {!isThere && (
        <p className="quiet">
          The folder is at {view.onDisk ?? 'no known build'}. Mods are mended one by one once it is at {view.to}.
        </p>
      )}
      <Buttons>
        {isThere && step && (
          <Button disabled={stuck || step.state === 'blocked'} onClick={() => take(step)}>
            {stepWords(step, names)}
          </Button>
        )}
        {!isThere && (
          <Button
            variant="default"
            disabled={stuck}
            onClick={() => at.attempt(() => takeSteps(install.id, view.to, []))}
          >
            Only the game to {view.to}
          </Button>
        )}
        {(!isThere || open > 0) && (
          <Button
            {...(isThere && { variant: 'default' })}
            disabled={stuck}
            onClick={() => at.attempt(() => layDownAll(install.id, view))}
          >
            Fetch and lay down {view.to} with {counted(view.releases.size, 'mod')}
          </Button>
        )}
      </Buttons>
    </>
  );
}
