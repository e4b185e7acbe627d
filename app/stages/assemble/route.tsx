import { Button } from '@mantine/core';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
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
import { changesOf } from '~/changes';
import { sourceOf } from '~/places';
import { getCatalogue, getInstall, type Install, listTrials } from '~/store';
import { LAYER_HEIGHT, LayerPicture } from './LayerPicture';
import { RoomPicture } from './RoomPicture';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const install = params.install!;
  const [view, trials, room] = await Promise.all([
    query('assemble', install),
    listTrials(install),
    getInstall(install).then(roomOf),
  ]);
  return { view, trials, room, catalogue: view && (await getCatalogue()) };
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
  const { view, trials, room, catalogue } = useLoaderData<typeof clientLoader>();
  const { install, survey } = useFrame();
  if (view && catalogue) {
    return <Assembling view={view} free={room?.free} names={modNames(catalogue)} trials={trials} />;
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

/** What becomes of files of the folder that the target does not have. */
const LEFT_WORDS = { beside: 'Left in the previous folder', 'in-place': 'Set aside' } as const;

interface AssemblingProps {
  readonly view: AssembleView;
  readonly free: number | undefined;
  readonly names: ReadonlyMap<string, string>;
  readonly trials: Awaited<ReturnType<typeof listTrials>>;
}

function Assembling({ view, free, names, trials }: AssemblingProps) {
  const { install } = useFrame();
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
              { name: LEFT_WORDS[view.way], value: count(view.leftBehind.length), color: 'var(--ochre)' },
            ]}
          />
          {!view.laid && (
            <>
              <Section>Disk space</Section>
              <RoomPicture steps={view.room.steps} peak={view.room.peak} way={view.way} free={free} />
            </>
          )}
          {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
          <GameStart install={install.id} trials={trials} names={names} />
          {!view.laid && view.leftBehind.length > 0 && (
            <details>
              <summary>{view.way === 'beside' ? 'Files left behind' : 'Files set aside'}</summary>
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
      action={<AssembleAction view={view} busy={busy} tooLittle={free !== undefined && needs(view) > free} />}
    />
  );
}

/** Bytes that come on top of what the disk holds now. */
const needs = ({ room }: AssembleView): number => room.peak - room.steps[0]!.bytes;

function AssembleAction({ view, busy, tooLittle }: { view: AssembleView; busy: boolean; tooLittle: boolean }) {
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
      {view.laid && view.way === 'in-place' && (
        <p className="quiet">The replaced files are kept until you delete them. The log can take the change back.</p>
      )}
      {!view.laid && tooLittle && <p className="quiet">Not enough free space on this disk.</p>}
      <Buttons>
        {!view.laid && (
          <Button
            disabled={busy || missing > 0 || tooLittle}
            onClick={() => void jobs.start('assemble', install.id, { target: install.target })}
          >
            Lay down {view.build} {view.way === 'beside' ? `beside ${likeliest}` : 'in place'}
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
