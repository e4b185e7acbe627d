import { memo, type ReactNode } from 'react';
import type { WorkItem } from '#core/mend';
import { bytes, count, counted } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { type InSight, VirtualRows } from '~/parts/VirtualRows';
import type { MendView } from '~/queries';
import { bandOf, type BandPart, CHANGES } from './band';
import { ACTION_WORDS } from './mend-words';
import styles from './mend.module.css';

const ROW = 30;
/** Where the band begins and ends, from the left. */
const [BAND, BAND_WIDTH, WIDTH] = [92, 16, 180];
function Band({ all }: { all: readonly BandPart[] }) {
  return all.map(({ name, files, bytes: size, kinds, top, height }) => {
    let from = top;
    const gap = 2;
    return (
      <g key={name}>
        <title>{`${name}: ${counted(files, 'file')}, ${bytes(size)}`}</title>
        <text x={BAND - 8} y={top + height / 2} textAnchor="end" dominantBaseline="central" className={styles.folder}>
          {name.length > 10 ? `${name.slice(0, 9)}…` : name} <tspan className={styles.files}>{count(files)}</tspan>
        </text>
        {CHANGES.map((kind) => {
          const share = ((height - gap) * kinds[kind]) / files;
          const rect = <rect key={kind} x={BAND} y={from} width={BAND_WIDTH} height={share} className={styles[kind]} />;
          from += share;
          return share > 0 && rect;
        })}
      </g>
    );
  });
}

/** From the files that a patch changed to the mods in sight that use them. */
function Beside({
  view,
  rows,
  selected,
  inSight: { top, height },
}: {
  view: MendView;
  rows: readonly WorkItem[];
  selected: string | undefined;
  inSight: InSight;
}) {
  if (height === 0) return <div style={{ width: WIDTH }} />;
  const { parts: all, partOf } = bandOf(view.changes, height);
  const from = BAND + BAND_WIDTH + 1;
  const threads = rows.flatMap(({ mod }, i) => {
    const y = i * ROW + ROW / 2 - top;
    const isSelected = mod === selected;
    if ((y < 0 || y > height) && !isSelected) return [];
    const used = new Map<BandPart, number>();
    for (const part of (view.touched.get(mod) ?? []).map(partOf)) if (part) used.set(part, (used.get(part) ?? 0) + 1);
    return [...used].map(([part, files]) => {
      const start = part.top + part.height / 2;
      const middle = (from + WIDTH) / 2;
      return (
        <path
          key={`${mod} ${part.name}`}
          d={`M${from} ${start}C${middle} ${start} ${middle} ${y} ${WIDTH} ${y}`}
          strokeWidth={Math.min(5, 1 + Math.log2(files))}
          data-selected={isSelected || undefined}
        />
      );
    });
  });
  const words = all.map(({ name, files, bytes: size }) => `${name}: ${counted(files, 'file')}, ${bytes(size)}`);
  return (
    <svg
      className={styles.beside}
      width={WIDTH}
      height={height}
      role="img"
      aria-label={`Changed files from ${view.from} to ${view.to}: ${words.join('; ')}`}
    >
      <g className={styles.threads}>{threads}</g>
      <Band all={all} />
    </svg>
  );
}

/** Drawn anew only when something of it is new: there may be hundreds. */
const WorkRow = memo(function WorkRow({
  item: { mod, from, to, action, verdict, state },
  number,
  name,
  isNext,
  isDoubtful,
  current,
}: {
  item: WorkItem;
  number: number;
  name: string;
  isNext: boolean;
  isDoubtful: boolean;
  current: boolean;
}) {
  return (
    <ItemLink changes={{ mod }} current={current}>
      <span className={`mono quiet ${styles.number}`}>{number}</span>
      <span className={`${parts.grow} ${styles.name}`} title={name}>
        {name}
      </span>
      <span className={`mono ${styles.releases}`}>{from === to ? (to ?? '–') : `${from ?? '–'} → ${to ?? 'out'}`}</span>
      <span className={styles.verdictCell}>
        <span className={styles.verdict} data-verdict={verdict}>
          {verdict}
        </span>
      </span>
      <span className={styles.step} data-state={isNext ? 'next' : state} data-action={action}>
        {isNext && 'next: '}
        {state === 'open' ? (isDoubtful ? 'your choice' : ACTION_WORDS[action]) : state}
      </span>
    </ItemLink>
  );
});

/** The patch as a band of its changed files by folder, with a thread from these to each mod that uses them; and the steps in their order. */
export function WorkPicture({
  view,
  rows,
  names,
  next,
  selected,
}: {
  view: MendView;
  rows: readonly WorkItem[];
  names: ReadonlyMap<string, string>;
  next: WorkItem | undefined;
  selected: WorkItem | undefined;
}): ReactNode {
  const places = new Map(view.items.map(({ mod }, i) => [mod, i + 1]));
  return (
    <VirtualRows
      label="Work list"
      height={ROW}
      length={rows.length}
      {...(view.changes.length > 0 && {
        beside: (inSight: InSight) => <Beside view={view} rows={rows} selected={selected?.mod} inSight={inSight} />,
      })}
      row={(i) => {
        const item = rows[i]!;
        return (
          <WorkRow
            item={item}
            number={places.get(item.mod)!}
            name={names.get(item.mod) ?? item.mod}
            isNext={item.mod === next?.mod}
            isDoubtful={view.undecided.has(item.mod)}
            current={item.mod === selected?.mod}
          />
        );
      }}
    />
  );
}
