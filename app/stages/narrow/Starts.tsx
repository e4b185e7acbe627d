import type { ModId } from '#core/builds';
import { count, counted } from '~/parts/format';
import type { NarrowView } from '~/queries';
import type { Narrowing } from '~/store';
import styles from './narrow.module.css';
import { OUTCOME_WORDS } from './narrow-words';

/** The widest that a mod is drawn, and how wide all of them are. */
const [MOST_CELL, WIDTH, HEIGHT] = [28, 480, 22];
/** Mods that are likelier than that to have to do with it are still suspected. */
export const SUSPECTED = 0.01;

function Row({ view, on, isNext }: { view: NarrowView; on: ReadonlySet<ModId>; isNext: boolean }) {
  const cell = Math.min(MOST_CELL, WIDTH / view.mods.length);
  const gap = cell > 5 ? 2 : 0.5;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className={styles.cells}
      aria-hidden="true"
      preserveAspectRatio="xMinYMid meet"
    >
      {view.mods.map(({ mod, name, involved, isAlways }, i) => (
        <rect
          key={mod}
          x={i * cell + gap / 2}
          y={2}
          width={cell - gap}
          height={HEIGHT - 4}
          className={styles.cell}
          data-on={on.has(mod) || undefined}
          data-next={isNext || undefined}
          data-suspected={(!isAlways && involved > SUSPECTED) || undefined}
        >
          <title>{`${name}: ${on.has(mod) ? 'on' : 'off'}`}</title>
        </rect>
      ))}
    </svg>
  );
}

/** The starts so far, a row each, with a cell for each mod in load order; and the next one. */
export function Starts({ view, under }: { view: NarrowView; under: Narrowing }) {
  const { next } = view;
  return (
    <ol className={styles.starts} aria-label="Starts so far">
      {under.starts.map(({ at, on, outcome }, i) => (
        <li key={at} className={styles.start}>
          <span className="mono">{count(i + 1)}</span>
          <Row view={view} on={new Set(on)} isNext={false} />
          <b className={styles.outcome} data-outcome={outcome}>
            {OUTCOME_WORDS[outcome]}
          </b>
          <span className="quiet">{on.length === 0 ? 'all off' : `${counted(on.length, 'mod')} on`}</span>
        </li>
      ))}
      {next && (
        <li className={styles.start} data-next>
          <span className="mono">
            <b>{count(under.starts.length + 1)}</b>
          </span>
          <Row view={view} on={new Set(next.on)} isNext />
          <b className={styles.outcome}>next</b>
          <span className="quiet">{next.on.length === 0 ? 'all off' : `${counted(next.on.length, 'mod')} on`}</span>
        </li>
      )}
    </ol>
  );
}
