import { bytes } from '~/parts/format';
import type { AssembleView } from '~/queries';
import styles from './assemble.module.css';

const WIDTH = 1000;
/** Pixels; the rows of the list beside the picture are as high. */
export const LAYER_HEIGHT = 44;
const GAP = 6;
const SOURCES = [
  ['kept', 'kept'],
  ['moved', 'from elsewhere'],
  ['stored', 'from the store'],
  ['missing', 'to fetch'],
] as const;

/** Widths by the square root of the bytes, so that a folder of a few kilobytes is still seen beside one of megabytes. */
function columnsOf(folders: AssembleView['folders']): { name: string; x: number; width: number }[] {
  const roots = folders.map((folder) => Math.sqrt(folder.bytes) + 500);
  const all = roots.reduce((a, b) => a + b, 0);
  let x = 0;
  return folders.map(({ name }, i) => {
    const width = ((WIDTH - GAP * folders.length) * roots[i]!) / all;
    const column = { name, x, width };
    x += width + GAP;
    return column;
  });
}

/** Columns that begin this far to the right have too little room behind them for a name. */
const NEAR_EDGE = 0.88 * WIDTH;

/** Where a column's name stands: at its left, but near the right edge so that it ends with the column. */
const labelPlace = (x: number, width: number): { left: string } | { right: string } =>
  x < NEAR_EDGE ? { left: `${x / 10}%` } : { right: `${(WIDTH - x - width) / 10}%` };

/** Depots as layers over the folders: solid where a copy stays, dotted where it is covered; below, what results. */
export function LayerPicture({ view }: { view: AssembleView }) {
  const columns = columnsOf(view.folders);
  const layers = view.layers.toReversed();
  const height = layers.length * LAYER_HEIGHT;
  return (
    <div className={styles.picture}>
      <div className={styles.names}>
        {columns.map(({ name, x, width }, i) => (
          <div key={name} style={{ ...labelPlace(x, width), top: 14 * (i % 3) }}>
            {name || 'top'}
          </div>
        ))}
      </div>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        preserveAspectRatio="none"
        style={{ height }}
        role="img"
        aria-label="Depots over folders; the table below says the same"
      >
        {layers.map((layer, row) =>
          columns.map(({ name, x, width }) => {
            const part = layer.folders.get(name);
            if (!part) return null;
            const stays = (width * part.stays) / (part.stays + part.covered || 1);
            const y = row * LAYER_HEIGHT + 6;
            return (
              <g key={`${layer.depot.id} ${name}`}>
                <rect x={x} y={y} width={width} height={LAYER_HEIGHT - 12} fill="url(#dots)" className={styles.edge} />
                <rect
                  x={x}
                  y={y}
                  width={stays}
                  height={LAYER_HEIGHT - 12}
                  className={layer.depot.orderMatters ? styles.ordered : styles.stays}
                />
              </g>
            );
          }),
        )}
      </svg>
      <h2 className={styles.result}>Folder {view.laid ? 'now' : 'after laying down'}</h2>
      <svg viewBox={`0 0 ${WIDTH} 40`} preserveAspectRatio="none" style={{ height: 40 }} aria-hidden="true">
        {columns.map(({ name, x, width }) => {
          const folder = view.folders.find((f) => f.name === name)!;
          let at = x;
          return (
            <g key={name}>
              {SOURCES.map(([source]) => {
                const part = (width * folder[source]) / Math.max(1, folder.bytes);
                const rect = <rect key={source} x={at} width={part} height={40} className={styles[source]} />;
                at += part;
                return rect;
              })}
              <rect x={x} width={width} height={40} fill="none" className={styles.edge} />
            </g>
          );
        })}
      </svg>
      <p className="quiet">
        Solid: this depot’s copy is used. Dotted: covered by a later depot, so never fetched or written. Widths grow
        with size.
      </p>
      <table className={styles.table}>
        <thead>
          <tr>
            <th>Folder</th>
            <th>Holds</th>
            {SOURCES.map(([source, words]) => (
              <th key={source}>
                <svg width="12" height="12" aria-hidden="true">
                  <rect width="12" height="12" className={styles[source]} />
                </svg>{' '}
                {words}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.folders.map((folder) => (
            <tr key={folder.name}>
              <td>{folder.name || 'top'}</td>
              <td>{bytes(folder.bytes)}</td>
              {SOURCES.map(([source]) => (
                <td key={source}>{folder[source] > 0 ? bytes(folder[source]) : '–'}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
