import { Button, Checkbox } from '@mantine/core';
import { useState } from 'react';
import { shortenMiddle } from '#core/text';
import { bringDepotsOf, canPick, type FolderOffer, pickFolder } from '~/commands';
import { isUnderWay, useLatestJob } from '~/jobs';
import { ServedWay } from '~/parts/add-folder/ServedWay';
import { HandOver } from '~/parts/add-folder/Ways';
import { Copyable } from '~/parts/Copyable';
import { bytes, count, counted } from '~/parts/format';
import { FailureNotice, Notice, Section } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { DepotLine, FetchView } from '~/queries';
import { type BroughtReport, BroughtReportSchema } from '~/store';
import styles from './fetch.module.css';

/** The depots of a build as a list to be got by other means, and the way in for what has come. */
export function FetchList({ view: { lines, build } }: { view: FetchView }) {
  const { install } = useFrame();
  const waits = lines.some(({ nowhere }) => nowhere.files > 0);
  const lacking = lines.filter(({ lacking: { files } }) => files > 0);
  const job = useLatestJob(install.id, 'bring-depots');
  const report = BroughtReportSchema.safeParse(job?.record.outcome).data;
  if (lacking.length === 0 && !report) return null;
  return (
    <section aria-label="Fetch list" className={styles.means}>
      {lacking.length > 0 && (
        <div>
          <Section>{waits ? 'To get by other means' : 'Or get them by other means'}</Section>
          <p className="quiet">
            {waits ? 'No source has all of these files. ' : ''}Get the depots of {build} any way you like, then point at
            the folder they arrived in.
          </p>
          <ul className={styles.list}>
            {lines.map((one) => (
              <Line key={one.depot.id} line={one} />
            ))}
          </ul>
          <Copyable text={`${lacking.map(({ line }) => line).join('\n')}\n`} what="whole list" /> everything that is
          still to come, a line a depot
        </div>
      )}
      <div>
        {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
        {report && <Report report={report} />}
        {lacking.length > 0 && <Arrived busy={job !== undefined && isUnderWay(job)} />}
      </div>
    </section>
  );
}

function Tick() {
  return (
    <svg viewBox="0 0 16 16" width="16" height="16" role="img" aria-label="complete">
      <path d="M2 8.5 6 12.5 14 3.5" fill="none" stroke="currentColor" strokeWidth="2.5" />
    </svg>
  );
}

function Line({ line: { depot, manifest, files, bytes: size, line, lacking } }: { line: DepotLine }) {
  const has = lacking.files === 0;
  return (
    <li data-has={has || undefined}>
      <span className={styles.mark}>{has && <Tick />}</span>
      <span>
        <strong>{depot.title}</strong>{' '}
        <span className="quiet">
          {counted(files, 'file')}, {bytes(size)}
          {!has && lacking.files < files && `, ${count(lacking.files)} of them missing`}
        </span>
        <div className="quiet mono">{shortenMiddle(manifest, 28)}</div>
      </span>
      {!has && <Copyable text={line} what={`line of ${depot.title}`} />}
    </li>
  );
}

type Pointed = Exclude<FolderOffer, { kind: 'list' }>;

/** Points at the folder in which depots have arrived. */
function Arrived({ busy }: { busy: boolean }) {
  const { install } = useFrame();
  const { failure, attempt, busy: starting } = useAttempt();
  const [move, setMove] = useState(false);
  const take = (offer: Promise<FolderOffer | undefined>): void =>
    attempt(async () => {
      const what = await offer;
      if (what && what.kind !== 'list') await bringDepotsOf(install.id, what satisfies Pointed, move);
    });
  const served = install.place.kind === 'served';
  return (
    <>
      <Section>They have arrived</Section>
      <p className="quiet">
        Point at their folder, or drop it on this page. Depots are recognised by their contents, whatever the folders
        are called.
      </p>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <fieldset disabled={busy || starting} className={styles.ways}>
        {served && (
          <>
            <ServedWay onOffer={take} act={(name) => `Look for depots in ${name}`} />
            <Checkbox
              checked={move}
              onChange={({ currentTarget }) => setMove(currentTarget.checked)}
              label="Move the files, so that they take no room twice"
            />
          </>
        )}
        {canPick() && (
          <Button size="xs" variant="default" onClick={() => take(pickFolder())}>
            Choose the folder
          </Button>
        )}
        {!served && <HandOver onOffer={take} label="Open the folder once" of="Folder of depots" />}
      </fieldset>
    </>
  );
}

type Found = BroughtReport['depots'][number];

const WHY: Record<NonNullable<Found['why']>, (found: Found, build: string) => string> = {
  'other-build': (found, build) => `of ${found.build}, not ${build}`,
  'other-language': () => 'in another language',
  'not-owned': () => 'an add-on that you do not own',
  'not-chosen': () => 'not chosen for this folder',
};

const some = ({ count: all, some: paths }: Found['missing']): string =>
  paths.join('\n') + (all > paths.length ? `\nand ${count(all - paths.length)} more` : '');

/** What a folder had, depot by depot. */
function Report({ report }: { report: BroughtReport }) {
  if (report.depots.length === 0)
    return <Notice>Nothing in that folder belongs to a depot that any source tells of.</Notice>;
  return (
    <>
      <Section>What that folder has</Section>
      <ul className={styles.list} aria-label="What that folder has">
        {report.depots.map((found) => (
          <FoundDepot key={`${found.folder} ${found.depot}`} found={found} build={report.build} />
        ))}
      </ul>
    </>
  );
}

function FoundDepot({ found, build }: { found: Found; build: string }) {
  const { title, folder, expected, missing, altered, why, isAgain } = found;
  const isWhole = missing.count + altered.count === 0;
  const has = isWhole && !why && !isAgain;
  return (
    <li data-has={has || undefined}>
      <span className={styles.mark}>{has && <Tick />}</span>
      <span>
        <strong>{title}</strong>{' '}
        {[isAgain ? 'a second time' : undefined, why && WHY[why](found, build)].filter(Boolean).join(', ')}
        <div className="quiet">
          {isWhole
            ? `complete, ${counted(expected.files, 'file')}, ${bytes(expected.bytes)}`
            : `${count(found.found.files)} of ${counted(expected.files, 'file')}, ${bytes(found.found.bytes)} of ${bytes(expected.bytes)}`}{' '}
          {folder && <>in {shortenMiddle(folder, 30)}</>}
        </div>
        {missing.count > 0 && <div title={some(missing)}>{counted(missing.count, 'file')} missing</div>}
        {altered.count > 0 && <div title={some(altered)}>{counted(altered.count, 'file')} with other contents</div>}
      </span>
    </li>
  );
}
