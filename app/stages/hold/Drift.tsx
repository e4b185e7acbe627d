import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { type CausedDrift, type DriftCause, looseMeans } from '#core/hold';
import { shortenMiddle } from '#core/text';
import { takeDriftOver, takeNothingOver } from '~/commands';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { bytes, count, counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import { STATE_WORDS } from '~/parts/state-marks';
import { useFrame } from '~/parts/use-frame';
import type { HoldView } from '~/queries';
import type { HoldRecord } from '~/store';
import { LockAgain } from './LockAgain';

const MOST_NAMED = 8;

function causeWords(cause: DriftCause): string {
  switch (cause.kind) {
    case 'update':
      return `as build ${cause.build} has them: most likely an update of the storefront`;
    case 'mod':
      return `of ${cause.name} ${cause.release}`;
    case 'hand':
      return 'changed by hand, or by a program that nothing here knows';
  }
}

function Caused({ cause, rows }: CausedDrift) {
  return (
    <>
      <p>
        {counted(rows.length, 'file')} {causeWords(cause)}:
      </p>
      <ul>
        {rows.slice(0, MOST_NAMED).map(({ path, state }) => (
          <li key={path} title={path}>
            {shortenMiddle(path, 40)} <span className="quiet">{STATE_WORDS[state]}</span>
          </li>
        ))}
      </ul>
      {rows.length > MOST_NAMED && <p className="quiet">and {count(rows.length - MOST_NAMED)} more</p>}
    </>
  );
}

/** That every file is as it is held; mods are not, while the loader's switch is off. */
function NothingDrifted({ hold: { sheet, accepted = [] } }: { hold: HoldRecord }) {
  const { loaderSwitch, index } = useFrame();
  if (loaderSwitch === 'off' && sheet.releases.length > 0)
    return (
      <Notice>
        No file has drifted, but the loader’s switch in {index.game.rules.loaderSwitch?.file} is off: the game would
        start without mods. Set it below.
      </Notice>
    );
  return <Notice tone="right">Nothing has drifted{accepted.length > 0 && ' but for what you took over'}.</Notice>;
}

/** That what is held is not known here, and how it becomes known. */
function NotComparable({ unknown }: { unknown: readonly string[] }) {
  const { index } = useFrame();
  return (
    <Notice>
      The folder cannot be checked against its sheet: nothing tells here which files belong to{' '}
      {unknown.slice(0, MOST_NAMED).join(', ')}
      {unknown.length > MOST_NAMED && ` and ${counted(unknown.length - MOST_NAMED, 'other', 'others')}`}. Add the source
      that told of them, or a copy of its catalogue, on the page of{' '}
      <Link className="link" to={`/games/${index.game.id}`}>
        {index.game.title}
      </Link>
      .
    </Notice>
  );
}

/** What drifted from the sheet, who is likely to have done it, and the two ways on: repair, or take it over. */
export function Drift({ view, hold }: { view: HoldView; hold: HoldRecord }) {
  const { survey, install } = useFrame();
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const accepted = hold.accepted?.length ?? 0;
  if (!survey?.fresh) return <Stale>Check it against the sheet.</Stale>;
  if (view.unknown.length > 0) return <NotComparable unknown={view.unknown} />;
  const drifted = view.departures.length;
  const loose = looseMeans(hold.sheet, hold.checks.at(-1));
  const repair = (): void => {
    const { target, toFetch } = view.repair!;
    const decided = { ...target, decidedBy: 'hold-sheet', at: Date.now() };
    if (toFetch > 0) void jobs.start('fetch', install.id, { target: decided, thenLayDown: true, way: 'in-place' });
    else void jobs.start('assemble', install.id, { target: decided, way: 'in-place' });
  };
  return (
    <>
      {drifted === 0 && loose.length > 0 ? (
        <>
          <Notice>
            No file has drifted. At the last check the storefront’s{' '}
            {loose.includes('setting') ? 'setting let updates come again' : 'record could be written again'}: an update
            may come.
          </Notice>
          <LockAgain hold={hold} busy={busy} />
        </>
      ) : drifted === 0 ? (
        <NothingDrifted hold={hold} />
      ) : (
        <>
          <Notice>{counted(drifted, 'file')} drifted from the sheet.</Notice>
          {view.causes.map((caused, i) => (
            <Caused key={i} {...caused} />
          ))}
          <Buttons>
            {view.repair && (
              <Button size="xs" disabled={busy} onClick={repair}>
                Put {counted(drifted, 'file')} right{loose.length > 0 && ' and lock the record again'}
                {view.repair.toFetch > 0 && `, fetching ${bytes(view.repair.toFetch)}`}
              </Button>
            )}
            <Button size="xs" variant="default" disabled={busy} onClick={() => void takeDriftOver(install.id)}>
              Accept {drifted === 1 ? 'it' : 'them'} as {drifted === 1 ? 'it is' : 'they are'}
            </Button>
          </Buttons>
        </>
      )}
      {accepted > 0 && (
        <p className="quiet">
          {counted(accepted, 'file')} of the folder {accepted === 1 ? 'is' : 'are'} accepted as found, and not as the
          sheet says.{' '}
          <Button size="compact-xs" variant="default" onClick={() => void takeNothingOver(install.id)}>
            Count {accepted === 1 ? 'it' : 'them'} as drift again
          </Button>
        </p>
      )}
    </>
  );
}
