import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { counted } from '~/parts/format';
import { Ago } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useFrame } from '~/parts/use-frame';
import { type HoldView, useQuery } from '~/queries';
import { CheckStrip } from './CheckStrip';
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
  const last = hold?.checks.at(-1);
  const at = last?.at;
  const noRecord = last ? 'no record of a storefront here' : 'not in effect';
  const isLoose = last?.setting === false || last?.lock === false;
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
        hold && isLoose && record.canChange ? (
          <Button
            size="compact-xs"
            disabled={busy}
            onClick={() => void jobs.start('hold', install.id, { sheet: hold.sheet })}
          >
            Write and lock the record again
          </Button>
        ) : undefined,
    },
    {
      ...{ title: 'Copy of the build', stands: hold ? copyStands === true : undefined, at: copy?.checkedAt },
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
      ...{ title: 'Frozen mods', stands: hold ? copyStands === true : undefined, at: copy?.checkedAt },
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
