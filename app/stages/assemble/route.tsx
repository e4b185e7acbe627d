import { Button, SegmentedControl } from '@mantine/core';
import { useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import { type LayDownWay, proposeWay, roomNeeded, type WayReason } from '#core/assemble';
import type { Depot } from '#core/builds';
import type { ToldChange } from '#core/contents';
import { isPlain, lookAhead, type TurnAhead, turnChanges } from '~/commands';
import { TurnDialog } from '~/parts/TurnDialog';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { fetchReportOf, isUnderWay, jobs, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { GameStart } from '~/parts/GameStart';
import { KeepOffer } from '~/parts/KeepOffer';
import { lastStart } from '~/parts/last-start';
import { modNames } from '~/parts/mod-names';
import { NotPlanned } from '~/parts/NotPlanned';
import { Opening } from '~/parts/Opening';
import { Buttons, FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type AssembleView, query } from '~/queries';
import { freeBytes } from '~/places';
import { getCatalogue, getInstall, listTrials, type StoredTrial } from '~/store';
import { Overlaps, StayingBehind } from './FileChoices';
import { LAYER_HEIGHT, LayerPicture } from './LayerPicture';
import { RoomChart, WAY_NAMES } from './RoomChart';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const install = params.install!;
  const here = await getInstall(install);
  const [view, trials, free, kept] = await Promise.all([
    query('assemble', install),
    listTrials(install),
    freeBytes(here),
    keptHere(install),
  ]);
  return { view, trials, free, kept, catalogue: view && (await getCatalogue(here.game)) };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="Assemble" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Assemble() {
  const { view, trials, free, kept, catalogue } = useLoaderData<typeof clientLoader>();
  if (view && catalogue) {
    return <Assembling view={view} free={free} kept={kept} names={modNames(catalogue)} trials={trials} />;
  }
  return (
    <StagePage
      title="Assemble"
      middle={<NotPlanned>The new folder is planned from the target and from what is on disk.</NotPlanned>}
      right={null}
    />
  );
}

/** The lay-down that was made last in this folder and keeps what it put aside, and the bytes that could be deleted. */
async function keptHere(installId: string): Promise<Kept> {
  const view = await query('storeOfInstall', installId);
  const last = view?.history.find(
    ({ what, state }) => what === 'lay-down' && (state === 'made' || state === 'taken-back'),
  );
  const piles = view?.inventory.piles ?? [];
  const freeable = piles.filter(({ purpose: { kind } }) => kind === 'change' || kind === 'unclaimed');
  return { last, freeable: freeable.reduce((sum, { bytes: size }) => sum + size, 0) };
}

/** Why a depot is laid down in this folder, or why not. */
function depotWords({ kind, orderMatters }: Depot, counts: boolean): string {
  switch (kind) {
    case 'language':
      return counts ? 'your language' : 'another language';
    case 'add-on':
      return counts ? 'owned' : 'not owned';
    case 'optional':
      return counts ? 'optional, wanted' : 'optional, not wanted';
    default:
      return orderMatters ? 'order matters' : 'always';
  }
}

const WAYS: Record<LayDownWay, string> = {
  beside: 'A complete new folder is written, then the two are swapped.',
  'in-place': 'Only files that differ are written; what they replace is kept.',
  'in-parts':
    'Files that differ are written part by part; what each part replaces is deleted if it can be fetched again.',
};
const WHY: Record<WayReason, string> = {
  'only-way': 'Whole folders cannot be swapped here.',
  'no-room-beside': 'A second folder does not fit on this disk.',
  'no-room-to-keep': 'What is replaced does not fit on this disk as well.',
  'little-differs': 'Recommended: little differs.',
  'one-instant': 'Recommended: the folder changes all at once.',
};

/** Whether the game came up at a build when it was last started. */
const isGood = ({ answer }: StoredTrial, build: string): boolean =>
  answer.outcome === 'title' && answer.version === build;

/** What becomes of files of the folder that the target does not have. */
const LEFT_WORDS = { beside: 'Left in the previous folder', 'in-place': 'Set aside', 'in-parts': 'Taken out' } as const;

/** What earlier changes of the folder keep. */
interface Kept {
  readonly last: ToldChange | undefined;
  /** Bytes. */
  readonly freeable: number;
}

interface AssemblingProps {
  readonly view: AssembleView;
  readonly free: number | undefined;
  readonly kept: Kept;
  readonly names: ReadonlyMap<string, string>;
  readonly trials: Awaited<ReturnType<typeof listTrials>>;
}

function Assembling({ view, free, kept, names, trials }: AssemblingProps) {
  const frame = useFrame();
  const { install } = frame;
  const [wished, setWished] = useState<LayDownWay>();
  const proposed = proposeWay(view.ways, free);
  const room = view.ways.find(({ way }) => way === wished) ?? view.ways.find(({ way }) => way === proposed.way)!;
  const { way } = room;
  const start = lastStart(trials);
  const job = useLatestJob(install.id, 'assemble', 'take-back', 'let-go');
  const busy = job !== undefined && isUnderWay(job);
  return (
    <StagePage
      title="Assemble"
      left={
        <>
          <div className={`label ${parts.heading}`}>Laying order, from 1 up</div>
          {view.layers.toReversed().map(({ depot, counts, bytes: size }) => (
            <div key={depot.id} className={`${parts.item} ${counts ? '' : 'quiet'}`} style={{ height: LAYER_HEIGHT }}>
              <span className="mono quiet">{depot.order}</span>
              <span className={parts.grow}>
                {depot.title}
                <div className="quiet">{depotWords(depot, counts)}</div>
              </span>
              <span className="mono">{counts ? bytes(size) : '–'}</span>
            </div>
          ))}
          <p className={parts.item}>
            <Link className="link" to={`/${install.id}/order`}>
              Load order of the mods
            </Link>
          </p>
        </>
      }
      middle={<LayerPicture view={view} />}
      right={
        <>
          <div className="label">{view.laid ? 'Folder now' : 'Folder after laying down'}</div>
          <h2 className={parts.big}>{counted(view.files, 'file')}</h2>
          <div className="quiet">
            {bytes(view.bytes)} · {counted(view.covered, 'covered copy', 'covered copies')} skipped
          </div>
          {view.laid && <Notice tone="right">{view.build} and its mods are in place, byte for byte.</Notice>}
          <Pairs
            rows={[
              { name: 'Kept in place', value: count(view.counts.keep) },
              { name: 'Taken from elsewhere on disk', value: count(view.counts.elsewhere) },
              { name: 'From the store', value: count(view.counts.stored) },
              { name: 'Written by Regressum', value: count(view.counts.write) },
              { name: 'Your own files', value: count(view.counts.own) },
              ...(view.counts.missing > 0
                ? [{ name: 'Still to fetch', value: count(view.counts.missing), color: 'var(--brick)' }]
                : []),
              ...(view.leftBehind.length > 0
                ? [{ name: LEFT_WORDS[way], value: count(view.leftBehind.length), color: 'var(--ochre)' }]
                : []),
            ]}
          />
          {!view.laid && (
            <>
              <Section>Disk space</Section>
              {view.ways.length > 1 && (
                <SegmentedControl
                  aria-label="How to lay it down"
                  data={view.ways.map((one) => ({ value: one.way, label: WAY_NAMES[one.way] }))}
                  value={way}
                  onChange={setWished}
                />
              )}
              <p className="quiet">
                {WAYS[way]} {way === proposed.way && WHY[proposed.why]}
              </p>
              {way === 'in-parts' && (
                <Notice>
                  Going back means fetching {counted(view.notKept.files, 'file')}, {bytes(view.notKept.bytes)}, again.
                  If you cancel halfway, the folder stays partly at {view.build}.
                </Notice>
              )}
              <RoomChart ways={view.ways} way={way} free={free} busy={busy} />
            </>
          )}
          {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
          <GameStart view={frame} trials={trials} names={names} />
          {view.laid && start && isGood(start, view.build) && (
            <KeepOffer install={install.id} build={view.build} since={start.at} />
          )}
          <Overlaps view={view} names={names} />
          {!view.laid && <StayingBehind view={view} install={install.id} names={names} title={LEFT_WORDS[way]} />}
        </>
      }
      action={
        <AssembleAction
          view={view}
          way={way}
          kept={kept}
          busy={busy}
          tooLittle={free !== undefined && roomNeeded(room) > free}
        />
      }
    />
  );
}

interface AssembleActionProps {
  readonly view: AssembleView;
  readonly way: LayDownWay;
  readonly kept: Kept;
  readonly busy: boolean;
  readonly tooLittle: boolean;
}

/** That it does not fit, and what can be done. */
function TooLittle({
  view,
  way,
  freeable,
  served,
}: {
  view: AssembleView;
  way: LayDownWay;
  freeable: number;
  served: boolean;
}) {
  const inPlace = view.ways.some((one) => one.way === 'in-place');
  const smaller = view.ways.some((one) => one.way === 'in-parts');
  return (
    <Notice tone="wrong">
      Not enough free space on this disk. {way === 'beside' && inPlace && 'Lay it down in place, which needs less. '}
      {freeable > 0 && `Under History you can delete ${bytes(freeable)} that earlier changes keep. `}
      {way === 'in-place' && smaller && 'Lay it down in parts, which keeps nothing that can be fetched again. '}
      {way === 'in-place' &&
        served &&
        'Start the local server with --store on another drive: what is replaced is then kept there.'}
    </Notice>
  );
}

const RESTORE = { back: 'Restore the replaced files', on: 'Lay it down again' } as const;

/** Files that the last fetch could not get, where nothing else is still to come: these can be left out for now. */
function useUnavailable({ build, missing, counts }: AssembleView): readonly string[] {
  const { install } = useFrame();
  const last = useLatestJob(install.id, 'fetch')?.record;
  const report = last?.state === 'failed' ? fetchReportOf(last) : undefined;
  const failed = new Set(report?.build === build ? report.missing.map(({ path }) => path) : []);
  return missing.length === counts.missing && missing.every((path) => failed.has(path)) ? missing : [];
}

/** Whether nothing is to be done but for files that are left out. */
const isElseInPlace = ({ counts, leftBehind }: AssembleView, without: readonly string[]): boolean =>
  counts.elsewhere + counts.stored + counts.write === 0 && leftBehind.every(({ file }) => without.includes(file.path));

/** What it means to lay a build down without some of its files. */
function LeftOut({ paths, build, done }: { paths: readonly string[]; build: string; done: boolean }) {
  return (
    <Notice>
      {counted(paths.length, 'file')} could not be fetched.{' '}
      {done
        ? `Everything else is in place. The folder is not quite ${build} until you fetch and lay down the rest.`
        : `You can lay down everything else now: what the folder has at ${paths.length === 1 ? 'that place' : 'those places'} stays, and the folder is not quite ${build} until you fetch and lay down the rest.`}
      <details>
        <summary>Which</summary>
        <ul>
          {paths.map((path) => (
            <li key={path} className="mono">
              {path}
            </li>
          ))}
        </ul>
      </details>
    </Notice>
  );
}

function AssembleAction({ view, way, kept: { last, freeable }, busy, tooLittle }: AssembleActionProps) {
  const { install, likeliest, unfinished } = useFrame();
  const turn = last?.state === 'taken-back' ? 'on' : 'back';
  const without = useUnavailable(view);
  const isElseDone = without.length > 0 && isElseInPlace(view, without);
  const missing = view.counts.missing - (isElseDone ? 0 : without.length);
  const [asked, setAhead] = useState<TurnAhead>();
  const { attempt, busy: isLooking, failure } = useAttempt();
  return (
    <>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {asked && <TurnDialog ahead={asked} install={install.id} onClose={() => setAhead(undefined)} />}
      {!view.fresh && <Stale>What is said here is of then: check it again before you lay anything down.</Stale>}
      {!view.laid && without.length > 0 && <LeftOut paths={without} build={view.build} done={isElseDone} />}
      {!view.laid && missing > 0 && (
        <p className="quiet">
          {counted(missing, 'file')} still to fetch.{' '}
          <Link className="link" to={`/${install.id}/fetch`}>
            Open Fetch
          </Link>
        </p>
      )}
      {!view.laid && tooLittle && (
        <TooLittle view={view} way={way} freeable={freeable} served={install.place.kind === 'served'} />
      )}
      <Buttons>
        {!view.fresh && unfinished.length === 0 && (
          <Button disabled={busy} onClick={() => void jobs.start('survey', install.id, { trustEarlier: true })}>
            Check changed files only
          </Button>
        )}
        {view.fresh && !view.laid && !isElseDone && (
          <Button
            disabled={busy || missing > 0 || tooLittle}
            onClick={() => void jobs.start('assemble', install.id, { target: install.target, way, without })}
          >
            Lay down {view.build}{' '}
            {way === 'beside' ? `beside ${likeliest}` : way === 'in-place' ? 'in place' : 'in parts'}
            {without.length > 0 && `, without ${counted(without.length, 'file')}`}
          </Button>
        )}
        {view.laid && (
          <Button component={Link} to={`/${install.id}/proof`}>
            Open the proof
          </Button>
        )}
        {last && (
          <>
            {last.after.length === 0 && last.lost === 0 && !last.elsewhere && (
              <Button
                variant="default"
                disabled={busy || isLooking}
                onClick={() =>
                  attempt(async () => {
                    const ahead = await lookAhead(install.id, [last.id], turn);
                    if (isPlain(ahead)) await turnChanges(install.id, ahead);
                    else setAhead(ahead);
                  })
                }
              >
                {last.counts.swapped ? 'Restore the previous folder' : RESTORE[turn]}
              </Button>
            )}
            <Button component={Link} variant="default" to={`/${install.id}/history?change=${last.id}`}>
              Open History
            </Button>
          </>
        )}
      </Buttons>
    </>
  );
}
