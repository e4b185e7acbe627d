import { Button, SegmentedControl } from '@mantine/core';
import { useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import { type LayDownWay, proposeWay, roomNeeded, type WayReason } from '#core/assemble';
import type { Depot } from '#core/builds';
import { shortenMiddle } from '#core/text';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { GameStart } from '~/parts/GameStart';
import { modNames } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { strayWords } from '~/parts/stray-words';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type AssembleView, query } from '~/queries';
import { changesOf, isInPlace } from '~/changes';
import { canChange, sourceOf } from '~/places';
import { getCatalogue, getInstall, type Install, listTrials } from '~/store';
import { LAYER_HEIGHT, LayerPicture } from './LayerPicture';
import { RoomPicture } from './RoomPicture';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const install = params.install!;
  const [view, trials, room, replaced] = await Promise.all([
    query('assemble', install),
    listTrials(install),
    getInstall(install).then(roomOf),
    getInstall(install).then(lastInPlace),
  ]);
  return { view, trials, room, replaced, catalogue: view && (await getCatalogue()) };
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
  const { view, trials, room, replaced, catalogue } = useLoaderData<typeof clientLoader>();
  const { install, survey } = useFrame();
  if (view && catalogue) {
    return <Assembling view={view} free={room?.free} replaced={replaced} names={modNames(catalogue)} trials={trials} />;
  }
  return (
    <StagePage
      title="Assemble"
      middle={
        <Empty
          title={survey ? 'Choose a build first' : 'Survey the folder first'}
          action={
            <Button component={Link} to={`/${install.id}/${survey ? 'choose' : 'survey'}`}>
              {survey ? 'Open Choose' : 'Open Survey'}
            </Button>
          }
        >
          The new folder is planned from the target and from what is on disk.
        </Empty>
      }
      right={null}
    />
  );
}

/** Bytes free where the folder lies, as far as it can be asked. */
const roomOf = async (install: Install) => (await sourceOf(install, install.tree)).reader.room();

/** The change that was made last in this folder, where it was made in place and can be taken back. */
async function lastInPlace({ place, ...install }: Install): Promise<string | undefined> {
  if (!(await canChange(place))) return undefined;
  const all = await changesOf({ place, ...install }).list();
  const last = all.findLast(({ set }) => set.what === 'lay-down');
  return last?.way === 'on' && last.ended && isInPlace(last.set) ? last.set.id : undefined;
}

/** Makes the folder that is kept aside the game's folder again, by taking the change set back, or making it again. */
async function swapFolders(installId: string, set: string): Promise<void> {
  const journalled = await changesOf(await getInstall(installId)).read(set);
  await jobs.start('take-back', installId, { set, way: journalled?.way === 'on' ? 'back' : 'on' });
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

const WAYS: Record<LayDownWay, { label: string; says: string }> = {
  beside: { label: 'Beside', says: 'A complete new folder is written, then the two are swapped.' },
  'in-place': { label: 'In place', says: 'Only files that differ are written; what they replace is kept.' },
};
const WHY: Record<WayReason, string> = {
  'only-way': 'The browser cannot swap whole folders here.',
  'no-room-beside': 'A second folder does not fit on this disk.',
  'little-differs': 'Recommended: little differs.',
  'one-instant': 'Recommended: the folder changes all at once.',
};

/** What becomes of files of the folder that the target does not have. */
const LEFT_WORDS = { beside: 'Left in the previous folder', 'in-place': 'Set aside' } as const;

interface AssemblingProps {
  readonly view: AssembleView;
  readonly free: number | undefined;
  /** The change set that was made in place last, and keeps what it replaced. */
  readonly replaced: string | undefined;
  readonly names: ReadonlyMap<string, string>;
  readonly trials: Awaited<ReturnType<typeof listTrials>>;
}

function Assembling({ view, free, replaced, names, trials }: AssemblingProps) {
  const { install } = useFrame();
  const [wished, setWished] = useState<LayDownWay>();
  const proposed = proposeWay(view.ways, free);
  const room = view.ways.find(({ way }) => way === wished) ?? view.ways.find(({ way }) => way === proposed.way)!;
  const { way } = room;
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
              { name: 'From fetched files', value: count(view.counts.fetched) },
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
                  data={view.ways.map((one) => ({ value: one.way, label: WAYS[one.way].label }))}
                  value={way}
                  onChange={setWished}
                />
              )}
              <p className="quiet">
                {WAYS[way].says} {way === proposed.way && WHY[proposed.why]}
              </p>
              <RoomPicture {...room} most={Math.max(...view.ways.map(({ peak }) => peak))} free={free} />
            </>
          )}
          {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
          <GameStart install={install.id} trials={trials} names={names} />
          {!view.laid && view.leftBehind.length > 0 && (
            <details>
              <summary>{way === 'beside' ? 'Files left behind' : 'Files set aside'}</summary>
              <ul>
                {view.leftBehind.map(({ file, name }) => (
                  <li key={file.path} title={file.path}>
                    {shortenMiddle(file.path, 40)} <span className="quiet">{name && strayWords(name, names)}</span>
                  </li>
                ))}
              </ul>
            </details>
          )}
        </>
      }
      action={
        <AssembleAction
          view={view}
          way={way}
          replaced={replaced}
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
  readonly replaced: string | undefined;
  readonly busy: boolean;
  readonly tooLittle: boolean;
}

function AssembleAction({ view, way, replaced, busy, tooLittle }: AssembleActionProps) {
  const { install, likeliest } = useFrame();
  const { aside } = install;
  const missing = view.counts.missing;
  return (
    <>
      {!view.laid && missing > 0 && (
        <p className="quiet">
          {counted(missing, 'file')} still to fetch.{' '}
          <Link className="link" to={`/${install.id}/fetch`}>
            Open Fetch
          </Link>
        </p>
      )}
      {!view.laid && tooLittle && <p className="quiet">Not enough free space on this disk.</p>}
      <Buttons>
        {!view.laid && (
          <Button
            disabled={busy || missing > 0 || tooLittle}
            onClick={() => void jobs.start('assemble', install.id, { target: install.target, way })}
          >
            Lay down {view.build} {way === 'beside' ? `beside ${likeliest}` : 'in place'}
          </Button>
        )}
        {replaced && (
          <Button
            variant="default"
            disabled={busy}
            onClick={() => void jobs.start('take-back', install.id, { set: replaced, way: 'back' })}
          >
            Restore the replaced files
          </Button>
        )}
        {aside && (
          <>
            <Button
              variant="default"
              disabled={busy}
              onClick={() => void jobs.start('let-go', install.id, { set: aside.set })}
            >
              Delete the previous folder ({aside.build ?? 'unknown build'}, {bytes(aside.bytes)})
            </Button>
            <Button variant="default" disabled={busy} onClick={() => void swapFolders(install.id, aside.set)}>
              Restore the previous folder
            </Button>
          </>
        )}
      </Buttons>
    </>
  );
}
