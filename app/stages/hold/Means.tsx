import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import { looseMeans } from '#core/hold';
import { Link } from 'react-router';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { count, counted } from '~/parts/format';
import { Ago } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useFrame } from '~/parts/use-frame';
import { type CopyElsewhere, type HoldView, useQuery } from '~/queries';
import { CheckStrip } from './CheckStrip';
import { LockAgain } from './LockAgain';
import styles from './hold.module.css';
import type { RecordView } from './record-view';

interface MeansRow {
  readonly title: string;
  /** Undefined where it cannot be told, or is not there. */
  readonly stands: boolean | undefined;
  /** What it protects against. */
  readonly against?: string;
  readonly says: string;
  /** When that was found out, in milliseconds since 1970. */
  readonly at?: number | undefined;
  readonly action?: ReactNode;
}

function Row({ title, stands, against, says, at, action }: MeansRow) {
  return (
    <div className={styles.means} data-stands={stands === undefined ? 'unknown' : stands}>
      <span className={styles.clasp} aria-hidden="true" />
      <span className={parts.grow}>
        {title}
        <div className="quiet">
          {says}
          {at !== undefined && (
            <>
              , <Ago at={at} />
            </>
          )}
        </div>
        {against !== undefined && <div className="quiet">Against: {against}</div>}
        {action}
      </span>
    </div>
  );
}

const isWhole = (copy: CopyElsewhere | undefined): boolean => copy !== undefined && copy.right === copy.of;

/** What keeps the folder as it is held: each means with what it protects against, and its last check. */
export function Means({ view, record }: { view: HoldView; record: RecordView }) {
  const { install } = useFrame();
  const { hold } = view;
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const { value: copy } = useQuery(
    'keptCopy',
    hold && [install.id, hold.sheet.build],
    `${hold?.checks.length} ${busy}`,
  );
  const { value: other } = useQuery('copyElsewhere', hold && [install.id], `${hold?.checks.length} ${busy}`);
  const last = hold?.checks.at(-1);
  const at = last?.at;
  const noRecord = last ? 'no record of a storefront here' : 'not in effect';
  const copyStands = copy && copy.missing === 0 && copy.checkedAt !== undefined;
  const rows: MeansRow[] = [
    {
      ...{
        title: 'Storefront update setting',
        stands: last?.setting,
        at: last?.setting === undefined ? undefined : at,
      },
      against: 'updates that come by themselves',
      says: last?.setting === undefined ? noRecord : last.setting ? 'updates only when asked' : 'updates come again',
    },
    {
      ...{ title: 'Locked install record', stands: last?.lock, at: last?.lock === undefined ? undefined : at },
      against: 'a storefront that sets its own setting back',
      says: last?.lock === undefined ? noRecord : last.lock ? 'read-only' : 'can be written',
      action:
        hold && looseMeans(hold.sheet, last).length > 0 && record.canChange ? (
          <LockAgain hold={hold} busy={busy} />
        ) : undefined,
    },
    {
      ...{
        title: 'Read-only files',
        stands: hold?.locked ? (last?.unlocked ?? 0) === 0 : undefined,
        at: hold?.locked && at,
      },
      against: 'programs that write into the game’s files; not one that puts new files in their place',
      says: !hold?.locked
        ? 'not in effect'
        : (last?.unlocked ?? 0) === 0
          ? `${counted(hold.locked.length, 'file')} read-only`
          : `${counted(last!.unlocked!, 'file')} can be written again`,
      action:
        hold && record.canChange && record.canLock && (!hold.locked || (last?.unlocked ?? 0) > 0) ? (
          <Button
            size="compact-xs"
            variant="default"
            disabled={busy || last?.drift !== 0}
            onClick={() => void jobs.start('hold', install.id, { sheet: hold.sheet, lockFiles: true })}
          >
            {hold.locked ? 'Make them read-only again' : 'Make the files read-only'}
          </Button>
        ) : undefined,
    },
    {
      ...{ title: 'Copy in the store', stands: hold && copy ? copyStands : undefined, at: copy?.checkedAt },
      against: 'an update that comes all the same: it is laid down again without fetching',
      says: !hold
        ? 'not in effect'
        : !copy
          ? 'not kept'
          : copy.missing > 0
            ? `${counted(copy.missing, 'content')} missing`
            : 'kept whole and right',
    },
    {
      ...{ title: 'Copy in another folder', stands: hold && other ? isWhole(other) : undefined, at: hold && other?.at },
      against: 'a drive that fails, or a store that is lost',
      says: !hold
        ? 'not in effect'
        : !other
          ? 'none'
          : isWhole(other)
            ? `${other.title} has all of it, checked`
            : `${other.title} has ${count(other.right)} of ${counted(other.of, 'file')}, checked`,
      action:
        hold && !isWhole(other) ? (
          <Button component={Link} to={`/${install.id}/folders`} size="compact-xs" variant="default">
            Copy the folder
          </Button>
        ) : undefined,
    },
    {
      ...{ title: 'Frozen mods', stands: hold && copy ? copyStands : undefined, at: copy?.checkedAt },
      against: 'releases that are withdrawn or replaced',
      says: !hold ? 'not in effect' : copyStands ? 'kept with the build' : 'not kept: keep the build to keep them',
    },
    {
      ...{ title: 'Files match the sheet', stands: last && last.drift === 0, at },
      against: 'whatever else changes files: it is noticed',
      says: !last
        ? 'not in effect'
        : last.drift === 0
          ? last.glance
            ? 'by names, sizes and times'
            : 'byte for byte'
          : `${counted(last.drift, 'file')} drifted`,
    },
    {
      ...{ title: 'Settings of the profile', stands: view.settings },
      says:
        view.settings === undefined
          ? 'not on the sheet'
          : view.settings
            ? 'as when held'
            : 'changed since: yours to change, and no drift',
    },
  ];
  return (
    <>
      <div className={`label ${parts.heading}`}>Protection</div>
      {rows.map((row) => (
        <Row key={row.title} {...row} />
      ))}
      {hold && (
        <>
          <div className={`label ${parts.heading}`}>Checks and repairs</div>
          <CheckStrip checks={hold.checks} />
        </>
      )}
    </>
  );
}
