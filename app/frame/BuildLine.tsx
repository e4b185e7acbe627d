import { type KeyboardEvent, memo, useEffect } from 'react';
import { Link } from 'react-router';
import type { BuildColumn, BuildLabel } from '#core/builds';
import { bytes, counted, shortDay } from '~/parts/format';
import { LookLink } from '~/parts/LookLink';
import { Ago } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { useAddress } from '~/parts/use-address';
import type { FrameView } from '~/queries';
import styles from './build-line.module.css';
import { useBuildScroll } from './build-scroll';
import { columnMiddle, columnTracks, useBuild, useColumns } from '~/parts/use-frame';

const BAR_HEIGHT = 44;

function describe(view: FrameView, build: FrameView['builds'][number]): string {
  const { install, onDisk, held, mods } = view;
  const facts = [
    build.label,
    build.date,
    ...build.branches.map((name) => `${name} branch`),
    ...(build.running === undefined ? [] : [`${build.running} of ${mods} mods run`]),
    ...(onDisk.includes(build.label) ? ['on disk'] : []),
    ...(install.target?.build === build.label ? ['target'] : []),
    ...(held?.build === build.label ? ['held'] : []),
  ];
  return facts.join(', ');
}

/** The way from what is on disk to the target, drawn over the columns. */
function Arc({ view, columns }: { view: FrameView; columns: readonly BuildColumn[] }) {
  const from = columnMiddle(columns, view.likeliest);
  const to = columnMiddle(columns, view.install.target?.build);
  if (from === undefined || to === undefined || from === to) return null;
  const [x1, x2] = [from * 1000, to * 1000];
  const near = x2 + (to < from ? 1 : -1) * (120 / columns.length);
  return (
    <svg className={styles.arc} viewBox="0 0 1000 100" preserveAspectRatio="none" aria-hidden="true">
      <path d={`M${x1} 96 Q${(x1 + x2) / 2} -62 ${near} 92`} />
    </svg>
  );
}

function Mark({ view, label, needsCode }: { view: FrameView; label: BuildLabel; needsCode: boolean }) {
  const { onDisk, install, held } = view;
  const isTarget = install.target?.build === label;
  const kind = onDisk.includes(label)
    ? onDisk.length > 1
      ? 'split'
      : 'disk'
    : isTarget
      ? 'target'
      : needsCode
        ? 'code'
        : 'plain';
  return (
    <span className={styles.markSpot} data-held={held?.build === label || undefined}>
      <span className={styles.mark} data-kind={kind} data-target={isTarget || undefined} />
    </span>
  );
}

export function BuildLine({ view }: { view: FrameView }) {
  const { builds, mods } = view;
  const address = useAddress();
  const selected = useBuild(view);
  const columns = useColumns(view);
  const line = useBuildScroll();
  const most = Math.max(1, ...builds.map(({ running }) => running ?? 0));

  useEffect(() => {
    document.getElementById(`build-${selected}`)?.scrollIntoView({ block: 'nearest', inline: 'nearest' });
  }, [selected]);

  const move = (event: KeyboardEvent): void => {
    const step = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    // From the build that has the focus: a key may come before the address says which one is selected.
    const focused = columns.findIndex(([label]) => document.activeElement?.id === `build-${label}`);
    const next = step && columns[focused + step];
    if (!next) return;
    event.preventDefault();
    if (next.length === 1) address.set({ build: next[0] });
    document.getElementById(`build-${next[0]}`)?.focus();
  };

  return (
    <section className={styles.line} aria-label="Builds">
      <Install view={view} />
      <div className={styles.scroll} ref={line}>
        <div
          className={styles.columns}
          style={{ gridTemplateColumns: columnTracks(columns) }}
          role="group"
          aria-label="Builds from old to new"
          onKeyDown={move}
        >
          <Arc view={view} columns={columns} />
          <div className={styles.rail} />
          {columns.map((column) => {
            const build = builds.find((one) => one.label === column[0])!;
            if (column.length > 1) return <Folded key={column[0]} column={column} />;
            return (
              <Column key={build.label} build={build} view={view} most={most} current={build.label === selected} />
            );
          })}
        </div>
      </div>
      <Legend view={view} mods={mods} />
    </section>
  );
}

/** Drawn anew only when something of it is new: there can be dozens, and each look at another build comes by here. */
const Column = memo(function Column({
  build: { label, date, branches, running },
  build,
  view,
  most,
  current,
}: {
  build: FrameView['builds'][number];
  view: FrameView;
  most: number;
  current: boolean;
}) {
  const needsCode = view.index.branches.some((branch) => branch.build === label && branch.needsCode);
  return (
    <LookLink
      id={`build-${label}`}
      changes={{ build: label }}
      className={styles.column}
      aria-current={current ? 'true' : undefined}
      aria-label={describe(view, build)}
      tabIndex={current ? 0 : -1}
    >
      <span className={styles.bar}>
        <span>{running}</span>
        <i
          style={{ height: running === undefined ? 0 : Math.max(2, (BAR_HEIGHT * running) / most) }}
          data-target={view.install.target?.build === label || undefined}
        />
      </span>
      <Mark view={view} label={label} needsCode={needsCode} />
      <span className={styles.name}>{label}</span>
      <span className={styles.date}>{shortDay(date)}</span>
      <span className={styles.branch}>{branches.join(' ')}</span>
    </LookLink>
  );
});

/** Builds that nothing speaks of; opened, each has a column of its own. */
function Folded({ column }: { column: BuildColumn }) {
  const address = useAddress();
  return (
    <button
      type="button"
      id={`build-${column[0]}`}
      className={styles.folded}
      title={`${column[0]} to ${column.at(-1)}: not used by your mods`}
      aria-label={`Unfold ${counted(column.length, 'build')}, ${column[0]} to ${column.at(-1)}`}
      onClick={() => address.set({ unfold: '1' })}
    >
      <span>{column.length}</span>
    </button>
  );
}

/** What is said of a hold, as far as it is known. */
function heldWords({ held }: FrameView): string {
  if (!held) return 'not held';
  if (!held.isKnown) return 'held, and cannot be checked';
  if (held.drift === undefined) return 'held at the last check';
  if (held.drift > 0) return `held, ${counted(held.drift, 'file')} drifted`;
  return held.loose.length > 0 ? 'held, but updates may come' : 'held';
}

function Install({ view }: { view: FrameView }) {
  const { install, folderBytes, likeliest, onDisk, survey, lostNow, lookedAt } = view;
  return (
    <div className={styles.install}>
      <div>
        <Link to={`/${install.id}/folders`} title="All folders; add another" className={styles.folder}>
          <strong>{install.title}</strong>
        </Link>{' '}
        <span className="quiet">· {placeWords(install.place)}</span>
      </div>
      <div>
        <Link to={`/${install.id}/profiles`} className={styles.folder} title="Profiles; switch to another">
          {view.profile}
        </Link>{' '}
        <span className="quiet">· profile</span>
      </div>
      <div className="mono quiet">
        {install.folder}
        {folderBytes !== undefined && ` · ${bytes(folderBytes)}`}
      </div>
      {survey ? (
        <div>
          <span className={styles.mark} data-kind={onDisk.length > 1 ? 'split' : 'disk'} />{' '}
          {onDisk.length > 1 ? onDisk.join(' and ') : (likeliest ?? 'no known build')}
          {lostNow ? (
            <>
              , <strong>{counted(lostNow, 'mod')} lost</strong>
            </>
          ) : null}
          , {heldWords(view)}
          <div className="quiet">
            checked <Ago at={survey.at} />
            {view.unfinished.length > 0 ? ', a change is unfinished' : !survey.fresh && ', changed since'}
          </div>
        </div>
      ) : (
        <div>
          {lookedAt !== undefined && (
            <>
              <span className={styles.mark} data-kind={onDisk.length > 1 ? 'split' : 'disk'} />{' '}
              {onDisk.join(' and ') || 'no known build'}
            </>
          )}
          <div className="quiet">
            {lookedAt === undefined ? (
              'not checked yet'
            ) : (
              <>
                quick look <Ago at={lookedAt} />
              </>
            )}
          </div>
        </div>
      )}
    </div>
  );
}

function Legend({ view, mods }: { view: FrameView; mods: number }) {
  const { install, builds, likeliest, held } = view;
  const place = (label: BuildLabel | undefined): number => builds.findIndex((build) => build.label === label);
  const steps = place(install.target?.build) - place(likeliest);
  const going = !install.target || !likeliest || steps === 0 ? undefined : steps < 0 ? 'back' : 'forward';
  const wrong = view.survey?.departures ?? 0;
  const head = held
    ? `Held at ${held.build}`
    : going
      ? `${counted(Math.abs(steps), 'build')} ${going}`
      : install.target && !likeliest
        ? `Target ${install.target.build}`
        : install.target
          ? `At the target build ${install.target.build}${wrong > 0 ? `, but for ${counted(wrong, 'file')}` : ''}`
          : 'No target selected';
  return (
    <div className={styles.legend}>
      <strong>{head}</strong>
      <span>
        <span className={styles.mark} data-kind="disk" /> on disk
      </span>
      <span>
        <span className={styles.mark} data-kind="target" /> target
      </span>
      <span>
        <span className={styles.markSpot} data-held>
          <span className={styles.mark} data-kind="plain" />
        </span>{' '}
        held
      </span>
      {mods > 0 && <span>bars: mods that run, of your {mods}</span>}
    </div>
  );
}
