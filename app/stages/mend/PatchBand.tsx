import { topFolder } from '#core/paths';
import { bytes, counted } from '~/parts/format';
import type { MendView } from '~/queries';
import styles from './mend.module.css';

const WIDTH = 1000;
const CHANGES = ['changed', 'new', 'gone', 'moved'] as const;

/** The patch as a band of its changed files by folder; those that the selected mod touches stand out. */
export function PatchBand({ view, touched }: { view: MendView; touched: readonly string[] | undefined }) {
  const { changes } = view;
  if (changes.length === 0) return <p className="quiet">The two builds are the same.</p>;
  const marked = new Set(touched);
  const width = WIDTH / changes.length;
  const folders = new Map<string, { first: number; files: number; bytes: number }>();
  changes.forEach(({ path, bytes: size }, i) => {
    const folder = folders.get(topFolder(path)) ?? { first: i, files: 0, bytes: 0 };
    folders.set(topFolder(path), { ...folder, files: folder.files + 1, bytes: folder.bytes + size });
  });
  return (
    <figure className={styles.band}>
      <figcaption>
        Files changed from {view.from} to {view.to}
        {touched && touched.length > 0 && `; ${counted(touched.length, 'file')} used by the selected mod`}
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDTH} 34`}
        preserveAspectRatio="none"
        role="img"
        aria-label={[...folders].map(([name, f]) => `${name}: ${f.files} files, ${bytes(f.bytes)}`).join('; ')}
      >
        {changes.map(({ path, change }, i) => (
          <rect
            key={path}
            x={i * width}
            y={marked.has(path) ? 0 : 8}
            width={Math.max(0.5, width - 0.4)}
            height={marked.has(path) ? 34 : 26}
            className={marked.has(path) ? styles.marked : styles[change]}
          >
            <title>{`${path}: ${change}`}</title>
          </rect>
        ))}
      </svg>
      <ul className={styles.changes} aria-label="Kinds of changes">
        {CHANGES.map((kind) => {
          const of = changes.filter(({ change }) => change === kind);
          if (of.length === 0) return null;
          return (
            <li key={kind}>
              <svg width="12" height="12" aria-hidden="true">
                <rect width="12" height="12" className={styles[kind]} />
              </svg>{' '}
              {counted(of.length, 'file')} {kind}{' '}
              <span className="quiet">{bytes(of.reduce((sum, { bytes: size }) => sum + size, 0))}</span>
            </li>
          );
        })}
      </ul>
      <div className={styles.folders}>
        {[...folders].map(([name, { files, bytes: size }]) => (
          <span key={name}>
            {name || 'top'} <span className="quiet">{`${files}, ${bytes(size)}`}</span>
          </span>
        ))}
      </div>
    </figure>
  );
}
