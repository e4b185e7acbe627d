import { useElementSize } from '@mantine/hooks';
import { hierarchy, type HierarchyRectangularNode, treemap } from 'd3-hierarchy';
import { type KeyboardEvent, useMemo, useRef } from 'react';
import { fileName, folderOf } from '#core/paths';
import { type FolderNode, folderTree, STATES, type SurveyTable } from '#core/survey';
import { bytes, count, counted } from '~/parts/format';
import { LookLink } from '~/parts/LookLink';
import { STATE_FILLS, STATE_WORDS } from '~/parts/state-marks';
import type { Address } from '~/parts/use-address';
import { Crumbs } from './Crumbs';
import styles from './survey.module.css';

const HEIGHT = 262;
/** More areas than these cannot be told apart; the smallest are drawn as one. */
const MOST_AREAS = 90;
/** What lies in the areas is drawn as well, as long as there are few of them; each area is a pattern to paint. */
const MOST_WITH_INSIDE = 30;
const MOST_INSIDE = 12;
/** No area is smaller than this share of the whole: what is there is seen. */
const LEAST_SHARE = 0.0025;

interface Area {
  readonly name: string;
  /** Where it leads: into a folder, to a file; nowhere for what is drawn together. */
  readonly to?: { readonly folder: string } | { readonly file: string };
  readonly files: readonly number[];
  readonly bytes: readonly number[];
  readonly children?: readonly Area[];
}

const total = (numbers: readonly number[]): number => numbers.reduce((sum, n) => sum + n, 0);

function fileArea(table: SurveyTable, row: number): Area {
  const path = table.paths[row]!;
  const of = (value: number): number[] => STATES.map((_, state) => (table.states[row] === state ? value : 0));
  return { name: fileName(path), to: { file: path }, files: of(1), bytes: of(table.sizes[row]!) };
}

function together(areas: readonly Area[], name: string): Area {
  const sum = (of: (area: Area) => readonly number[]): number[] =>
    STATES.map((_, state) => areas.reduce((all, area) => all + of(area)[state]!, 0));
  return { name, files: sum(({ files }) => files), bytes: sum((area) => area.bytes) };
}

/** The largest areas, and the rest as one. */
function largest(areas: readonly Area[], most: number): readonly Area[] {
  if (areas.length <= most) return areas;
  const bySize = areas.toSorted((a, b) => total(b.bytes) - total(a.bytes));
  const rest = bySize.slice(most);
  return [...bySize.slice(0, most), together(rest, `${count(rest.length)} smaller ones`)];
}

/** The folders and files in a folder; the files as one area where they are only seen inside another. */
function areasIn(table: SurveyTable, node: FolderNode, inside: boolean): readonly Area[] {
  const withInside = !inside && node.folders.size <= MOST_WITH_INSIDE;
  const folders = [...node.folders.values()].map((folder): Area => {
    const { name, path, files, bytes: sums } = folder;
    const children = withInside ? { children: areasIn(table, folder, true) } : {};
    return { name, to: { folder: path }, files, bytes: sums, ...children };
  });
  const files = node.own.map((row) => fileArea(table, row));
  if (!inside) return largest([...folders, ...files], MOST_AREAS);
  const own = files.length > 0 ? [together(files, counted(files.length, 'file'))] : [];
  return largest([...folders, ...own], MOST_INSIDE);
}

type Node = HierarchyRectangularNode<Area>;

/** Stripes from left to right, as wide as each state's share of the bytes; of the files where no sizes are known. */
function Stripes({ node: { x0, x1, y0, y1, data } }: { node: Node }) {
  const parts = total(data.bytes) > 0 ? data.bytes : data.files;
  const all = Math.max(1, total(parts));
  let x = x0;
  return STATES.map((state, i) => {
    // A state that is there is seen, however few its bytes are.
    const width = data.files[i] === 0 ? 0 : Math.max(Math.min(3, x1 - x0), (parts[i]! / all) * (x1 - x0));
    const left = x;
    x += width;
    if (width === 0 || left >= x1) return null;
    return (
      <rect key={state} x={left} y={y0} width={Math.min(width, x1 - left)} height={y1 - y0} fill={STATE_FILLS[state]} />
    );
  });
}

function Label({ node: { x0, x1, y0, y1, data } }: { node: Node }) {
  const room = Math.floor((x1 - x0 - 8) / 6.2);
  if (room < 3 || y1 - y0 < 14) return null;
  const text = data.name.length > room ? `${data.name.slice(0, room - 1)}…` : data.name;
  return (
    <text x={x0 + 4} y={y0 + 11} className={styles.areaName}>
      {text}
    </text>
  );
}

const wordsOf = ({ name, files, bytes: sums }: Area): string => {
  const wrong = STATES.slice(1).flatMap((state, i) =>
    files[i + 1]! > 0 ? [`${count(files[i + 1]!)} ${STATE_WORDS[state]}`] : [],
  );
  return `${name}: ${bytes(total(sums))}, ${counted(total(files), 'file')}, ${wrong.join(', ') || 'all correct'}`;
};

/** The area next to one in a direction: the nearest whose middle lies that way. */
function neighbour(areas: readonly Node[], from: Node, key: string): Node | undefined {
  const middle = ({ x0, x1, y0, y1 }: Node): [number, number] => [(x0 + x1) / 2, (y0 + y1) / 2];
  const [x, y] = middle(from);
  const along = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
  if (!along) return undefined;
  const [dx, dy] = along as [number, number];
  let best: { node: Node; cost: number } | undefined;
  for (const node of areas) {
    const [toX, toY] = middle(node);
    const ahead = (toX - x) * dx + (toY - y) * dy;
    const aside = Math.abs((toX - x) * dy) + Math.abs((toY - y) * dx);
    if (node !== from && ahead > 1 && (!best || ahead + 2 * aside < best.cost)) {
      best = { node, cost: ahead + 2 * aside };
    }
  }
  return best?.node;
}

/**
 * A folder as a map: what lies in it as areas by bytes, each filled by the states of its files. A click, or Enter, goes
 * into a folder or shows a file; Backspace goes up.
 */
export function FolderMap({
  table,
  folder,
  title,
  address,
}: {
  table: SurveyTable;
  folder: string;
  title: string;
  address: Address;
}) {
  const { ref, width } = useElementSize<HTMLDivElement>();
  const picture = useRef<SVGSVGElement>(null);
  const root = useMemo(() => folderTree(table), [table]);
  const areas = useMemo(() => {
    let node: FolderNode | undefined = root;
    for (const part of folder === '' ? [] : folder.split('/')) node = node?.folders.get(part);
    if (!node || width === 0) return [];
    const all: Area = { name: '', files: node.files, bytes: node.bytes, children: areasIn(table, node, false) };
    const least = LEAST_SHARE * Math.max(1, total(node.bytes));
    const tree = hierarchy(all, ({ children }) => children?.slice()).sum(({ children, bytes: sums }) =>
      children ? 0 : Math.max(least, total(sums)),
    );
    return treemap<Area>()
      .size([width, HEIGHT])
      .paddingInner(2)
      .paddingTop((node) => (node.depth === 1 ? 14 : 0))(tree).children;
  }, [table, root, folder, width]);
  const selected = address.get('file');

  const move = (event: KeyboardEvent): void => {
    const links = [...(picture.current?.querySelectorAll('a') ?? [])];
    const place = links.findIndex((link) => link === document.activeElement);
    if ((event.key === 'Backspace' || event.key === 'Escape') && folder !== '') {
      event.preventDefault();
      address.set({ folder: folderOf(folder), file: undefined });
      return;
    }
    const next = areas?.[place] && neighbour(areas, areas[place], event.key);
    if (!next) return;
    event.preventDefault();
    links[areas.indexOf(next)]?.focus();
  };

  return (
    <div className={styles.map}>
      <Crumbs
        title={title}
        folder={folder}
        states={STATES.filter((state, i) => state !== 'unreadable' || root.files[i]! > 0)}
      />
      <div ref={ref} style={{ height: HEIGHT }}>
        <svg
          ref={picture}
          width={width}
          height={HEIGHT}
          role="group"
          aria-label={`${folder || title} by bytes; arrow keys move, Enter opens, Backspace goes up`}
          onKeyDown={move}
        >
          {areas?.map((node, i) => {
            const { x0, x1, y0, y1, data } = node;
            const { to } = data;
            const next = !to ? {} : 'folder' in to ? { folder: to.folder, file: undefined } : { file: to.file };
            const current = to && 'file' in to && to.file === selected;
            return (
              <LookLink
                key={data.name}
                changes={next}
                tabIndex={i === 0 ? 0 : -1}
                aria-label={wordsOf(data)}
                aria-current={current ? 'true' : undefined}
                className={styles.area}
              >
                <title>{wordsOf(data)}</title>
                <rect x={x0} y={y0} width={x1 - x0} height={y1 - y0} className={styles.ground} />
                {(node.children ?? [node]).map((leaf) => (
                  <Stripes key={leaf.data.name} node={leaf} />
                ))}
                <Label node={node} />
                <rect
                  x={x0 + 0.5}
                  y={y0 + 0.5}
                  width={Math.max(0, x1 - x0 - 1)}
                  height={Math.max(0, y1 - y0 - 1)}
                  className={styles.outline}
                />
              </LookLink>
            );
          })}
        </svg>
      </div>
    </div>
  );
}
