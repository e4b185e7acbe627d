import { Button, Menu, SegmentedControl, Select } from '@mantine/core';
import { memo, useMemo } from 'react';
import { Link } from 'react-router';
import type { BuildColumn, BuildLabel, ModId } from '#core/builds';
import type { Bar, BuildChoice } from '#core/choose';
import { toCsv } from '#core/tables';
import { scrollBuilds } from '~/frame/build-scroll';
import { columnTracks, useColumns, useFrame } from '~/parts/use-frame';
import { count, counted } from '~/parts/format';
import { FilterInput } from '~/parts/FilterInput';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { saveFile } from '~/parts/save-file';
import { type Address, useAddress } from '~/parts/use-address';
import { VirtualRows } from '~/parts/VirtualRows';
import type { ChooseView } from '~/queries';
import { boardMarkdown, boardTable } from './board-export';
import {
  arrange,
  type BoardEntry,
  type BoardRow,
  boardRows,
  filterRows,
  type Order,
  ORDERS,
  type Thread,
  threadsOf,
} from './board-rows';
import { BoardTable } from './BoardTable';
import styles from './choose.module.css';

const ROW = 26;

const ORDER_WORDS: Record<Order, string> = {
  layer: 'by layer and weight',
  weight: 'by weight',
  loss: 'by outcome',
  author: 'by author',
  name: 'by name',
};

/** Rows are mods, columns the builds of the build line; a bar for each release over the builds that it counts for. */
export function Board({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const address = useAddress();
  const order = ORDERS.find((one) => one === address.get('order')) ?? 'layer';
  const unlike = view.choices.find(({ build }) => build === address.get('with'));
  const onlyUnlike = unlike && address.get('differs') !== undefined;
  const words = address.get('filter') ?? '';
  const all = useMemo(() => boardRows(view, choice), [view, choice]);
  const differing = onlyUnlike ? unlike : undefined;
  const rows = useMemo(() => filterRows(all, choice, { words, unlike: differing }), [all, choice, words, differing]);
  const entries = useMemo(() => arrange(rows, order), [rows, order]);
  const asTable = address.get('as') === 'table';
  return (
    <div className={styles.page} data-board-at={view.at}>
      <Tools
        view={view}
        choice={choice}
        rows={rows}
        all={all.length}
        order={order}
        asTable={asTable}
        compared={address.get('with')}
        onlyUnlike={address.get('differs') !== undefined}
        set={address.set}
      />
      {rows.length === 0 ? (
        <p className={`quiet ${styles.nothing}`}>
          {all.length === 0 ? 'No mods yet. Add your mods first.' : 'No mod matches the filter.'}
        </p>
      ) : asTable ? (
        <BoardTable entries={entries} choice={choice} view={view} />
      ) : (
        <Bars view={view} choice={choice} entries={entries} address={address} />
      )}
    </div>
  );
}

/** Drawn anew only when something of it is new: its fields take as long as all rows in sight. */
const Tools = memo(function Tools({
  view,
  choice,
  rows,
  all,
  order,
  asTable,
  compared,
  onlyUnlike,
  set,
}: {
  view: ChooseView;
  choice: BuildChoice;
  rows: readonly BoardRow[];
  all: number;
  order: Order;
  asTable: boolean;
  /** The build that this one is compared with. */
  compared: string | undefined;
  onlyUnlike: boolean;
  set: Address['set'];
}) {
  const { install, index } = useFrame();
  const saveCsv = (): void => {
    const { fields, data } = boardTable(view, rows);
    saveFile(`${install.id}-mods.csv`, toCsv(fields, data), 'text/csv');
  };
  const saveMarkdown = (): void => {
    const builds = new Map(index.builds.map(({ label, date }) => [label, date]));
    const text = boardMarkdown(view, rows, choice, { title: index.game.title, builds });
    saveFile(`${install.id}-${choice.build}.md`, text, 'text/markdown');
  };
  return (
    <div className={styles.tools} role="group" aria-label="Board options">
      <FilterInput
        name="filter"
        label="Filter mods by name, author, kind or release"
        placeholder="Filter mods"
        width={150}
      />
      <Select
        size="xs"
        w={172}
        aria-label="Order of the rows"
        allowDeselect={false}
        data={ORDERS.map((value) => ({ value, label: ORDER_WORDS[value] }))}
        value={order}
        onChange={(value) => set({ order: value === 'layer' ? undefined : (value ?? undefined) })}
      />
      {compared !== undefined && (
        <Button
          size="xs"
          variant={onlyUnlike ? 'filled' : 'default'}
          aria-pressed={onlyUnlike}
          onClick={() => set({ differs: onlyUnlike ? undefined : '1' })}
        >
          Only differences from {compared}
        </Button>
      )}
      <span className="quiet">
        {rows.length === all ? counted(all, 'mod') : `${count(rows.length)} of ${counted(all, 'mod')}`}
      </span>
      <Button size="xs" variant="default" ml="auto" component={Link} to={`/${install.id}/mods`}>
        Add mods
      </Button>
      <SegmentedControl
        size="xs"
        aria-label="How the mods are shown"
        data={[
          { value: 'bars', label: 'Bars' },
          { value: 'table', label: 'Table' },
        ]}
        value={asTable ? 'table' : 'bars'}
        onChange={(value) => set({ as: value === 'table' ? 'table' : undefined })}
      />
      <Menu position="bottom-end">
        <Menu.Target>
          <Button size="xs" variant="default" aria-label={`Export, ${counted(rows.length, 'mod')} shown`}>
            Export
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => saveCsv()}>{count(rows.length)} mods shown at every build, as CSV</Menu.Item>
          <Menu.Item onClick={saveMarkdown}>
            {count(rows.length)} mods shown at {choice.build}, as Markdown
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
    </div>
  );
});

function Bars({
  view,
  choice,
  entries,
  address,
}: {
  view: ChooseView;
  choice: BuildChoice;
  entries: readonly BoardEntry[];
  address: Address;
}) {
  const shown = useShownColumns();
  const here = shown.columnOf[shown.labels.indexOf(choice.build)]! + 1;
  const selected = address.get('mod');
  const threads = entries.flatMap((entry) =>
    entry.kind === 'row' && entry.row.mod.id === selected ? threadsOf(view, choice, entry.row.mod.id) : [],
  );
  const tied = new Map(threads.map(({ mod, kind }) => [mod, kind]));
  return (
    <div
      className={styles.board}
      onWheel={({ deltaX }) => {
        if (deltaX !== 0) scrollBuilds(deltaX);
      }}
    >
      <VirtualRows
        label="Mods"
        height={ROW}
        length={entries.length}
        over={<Threads entries={entries} selected={selected} threads={threads} />}
        row={(i) => {
          const entry = entries[i]!;
          if (entry.kind === 'title') {
            return (
              <div className={styles.row}>
                <h3 className={`label ${styles.name}`}>
                  {entry.title} <span className="quiet">{count(entry.mods)}</span>
                </h3>
                <Cells tracks={shown.tracks} here={here} />
              </div>
            );
          }
          const { mod, chosen } = entry.row;
          return (
            <ModRow
              name={mod.name}
              mod={mod.id}
              current={selected === mod.id}
              tied={tied.get(mod.id)}
              chosen={chosen}
              build={choice.build}
              bars={view.bars.get(mod.id) ?? NO_BARS}
              columns={shown}
              here={here}
            />
          );
        }}
      />
    </div>
  );
}

/** The columns of the build line as the rows need them. */
interface ShownColumns {
  readonly tracks: string;
  readonly labels: readonly BuildLabel[];
  /** By build: the column that it is in. */
  readonly columnOf: readonly number[];
}

/** The same object until the columns change. */
function useShownColumns(): ShownColumns {
  const frame = useFrame();
  const columns = useColumns(frame);
  const key = JSON.stringify([frame.builds.map(({ label }) => label), columns]);
  return useMemo(() => {
    const [labels, folded] = JSON.parse(key) as [BuildLabel[], BuildColumn[]];
    const columnOf = labels.map((label) => folded.findIndex((column) => column.includes(label)));
    return { tracks: columnTracks(folded), labels, columnOf };
  }, [key]);
}

const NO_BARS: readonly Bar[] = [];

/** Drawn anew only when something of it is new: there are hundreds, with dozens of bars in sight. */
const ModRow = memo(function ModRow({
  name,
  mod,
  current,
  tied,
  chosen,
  build,
  bars,
  columns: { tracks, labels, columnOf },
  here,
}: {
  name: string;
  mod: ModId;
  current: boolean;
  tied: Thread['kind'] | undefined;
  chosen: string | undefined;
  build: BuildLabel;
  bars: readonly Bar[];
  columns: ShownColumns;
  here: number;
}) {
  return (
    <div className={styles.row} data-tied={tied}>
      <div className={styles.name}>
        <ItemLink changes={{ mod }} current={current}>
          <span className={parts.grow} data-lost={chosen === undefined || undefined} title={name}>
            {name}
          </span>
          <span className="mono quiet">{chosen ?? 'lost'}</span>
        </ItemLink>
      </div>
      <Cells tracks={tracks} here={here}>
        {bars.map(({ release, from, to: last, support }) => (
          <span
            key={`${release} ${from}`}
            className={styles.release}
            data-chosen={release === chosen || undefined}
            data-support={support}
            title={`${name} ${release}: ${from === last ? labels[from] : `${labels[from]} to ${labels[last]}`}`}
            style={{ gridColumn: `${columnOf[from]! + 1} / ${columnOf[last]! + 2}` }}
          >
            {release}
          </span>
        ))}
        {!chosen && (
          <span className={styles.lost} style={{ gridColumn: here }} aria-label={`lost at ${build}`} role="img">
            ×
          </span>
        )}
      </Cells>
    </div>
  );
});

/** A row of the build line's columns, scrolled as it is. */
function Cells({ tracks, here, children }: { tracks: string; here: number; children?: React.ReactNode }) {
  return (
    <div className={styles.cells}>
      <div className={styles.tracks} style={{ gridTemplateColumns: tracks }}>
        <span className={styles.column} style={{ gridColumn: `${here} / ${here + 1}` }} />
        {children}
      </div>
    </div>
  );
}

const THREAD_WIDTH = 14;

/** From the selected mod to what it needs (solid), to what needs it (dashed), and to what keeps it out (crossed ends). */
function Threads({
  entries,
  selected,
  threads,
}: {
  entries: readonly BoardEntry[];
  selected: string | undefined;
  threads: readonly Thread[];
}) {
  const place = (id: string | undefined): number =>
    entries.findIndex((entry) => entry.kind === 'row' && entry.row.mod.id === id);
  const from = place(selected);
  if (from < 0 || threads.length === 0) return null;
  const middle = (row: number): number => row * ROW + ROW / 2;
  const drawn = threads.map((thread) => ({ ...thread, row: place(thread.mod) })).filter(({ row }) => row >= 0);
  return (
    <svg className={styles.threads} width={THREAD_WIDTH} height={entries.length * ROW} aria-hidden="true">
      {drawn.map(({ mod, kind, row }) => (
        <g key={`${kind} ${mod}`} data-kind={kind}>
          <path
            d={`M${THREAD_WIDTH} ${middle(from)}C2 ${middle(from)} 2 ${middle(row)} ${THREAD_WIDTH - 3} ${middle(row)}`}
          />
          <circle cx={THREAD_WIDTH - 4} cy={middle(row)} r="3" />
        </g>
      ))}
    </svg>
  );
}
