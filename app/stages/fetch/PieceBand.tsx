import { useDeferredValue, useMemo, useSyncExternalStore } from 'react';
import { type FetchItem, piecesOf, type PieceState } from '#core/fetch';
import { pieceBoard } from '~/jobs';
import { bytes } from '~/parts/format';
import { useFrame } from '~/parts/use-frame';
import styles from './fetch.module.css';

/** How a piece comes counts while it is still to come. */
type BandState = PieceState | 'rebuilt' | 'compressed';

const STATES: readonly BandState[] = [
  ...(['on-hand', 'reused', 'checked', 'arriving', 'failing'] as const),
  ...(['rebuilt', 'compressed', 'to-come'] as const),
];

const WORDS: Record<BandState, string> = {
  'on-hand': 'on disk',
  reused: 'reused from other files',
  checked: 'fetched and checked',
  arriving: 'arriving',
  failing: 'failed, retrying',
  rebuilt: 'to come, rebuilt from old data',
  compressed: 'to come, compressed',
  'to-come': 'to come, as it is',
};

/** Where in a band of 30 a state is drawn: each has a place and height of its own besides its colour. */
const SHAPES: Record<BandState, { y: number; height: number }> = {
  'on-hand': { y: 0, height: 30 },
  checked: { y: 0, height: 30 },
  reused: { y: 15, height: 15 },
  arriving: { y: 0, height: 15 },
  failing: { y: 11, height: 8 },
  rebuilt: { y: 22, height: 8 },
  compressed: { y: 11, height: 19 },
  'to-come': { y: 0, height: 30 },
};

function stateOf(install: string, item: FetchItem, piece: number): BandState {
  const { source, sha256 } = item;
  if (source.how === 'stored') return 'checked';
  if (source.how !== 'fetch') return 'on-hand';
  const whence = source.pieces[piece];
  const told = pieceBoard.get(install, sha256, piece);
  if (told) return told;
  if (whence === 'arrived') return 'checked';
  return typeof whence === 'object' ? 'reused' : (whence ?? 'to-come');
}

/** Stretches of equal state over the band's bytes, so that ten thousand pieces are a handful of rectangles. */
function stretchesOf(
  install: string,
  items: readonly FetchItem[],
): { state: BandState; start: number; length: number }[] {
  const stretches: { state: BandState; start: number; length: number }[] = [];
  let at = 0;
  for (const item of items) {
    for (const [i, { start, end }] of piecesOf(item).entries()) {
      const state = stateOf(install, item, i);
      const last = stretches.at(-1);
      if (last?.state === state) last.length += end - start;
      else stretches.push({ state, start: at, length: end - start });
      at += end - start;
    }
  }
  return stretches;
}

/** Where the pieces of a depot come from and how far they are, in the order in which their files lie in its tree. */
export function PieceBand({
  title,
  items,
  fetching,
}: {
  title: string;
  items: readonly FetchItem[];
  fetching: boolean;
}) {
  const { install } = useFrame();
  // Drawn when nothing else is to be done: of what a store tells, React draws everything in one go otherwise.
  const version = useDeferredValue(useSyncExternalStore(pieceBoard.subscribe, pieceBoard.version, () => 0));
  const stretches = useMemo(
    () => stretchesOf(install.id, items),
    // The board is not a value of React's: its version says when it has changed.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [install.id, items, version, fetching],
  );
  return useMemo(() => <Band title={title} stretches={stretches} />, [title, stretches]);
}

function Band({ title, stretches }: { title: string; stretches: ReturnType<typeof stretchesOf> }) {
  const total = stretches.reduce((sum, { length }) => sum + length, 0);
  const sums = STATES.flatMap((state) => {
    const sum = stretches.reduce((n, stretch) => (stretch.state === state ? n + stretch.length : n), 0);
    return sum > 0 ? [`${bytes(sum)} ${WORDS[state]}`] : [];
  });
  return (
    <div className={styles.band}>
      <svg
        viewBox={`0 0 ${Math.max(1, total)} 30`}
        preserveAspectRatio="none"
        role="img"
        aria-label={`${title}: ${sums.join(', ') || 'nothing'}`}
      >
        {stretches.map(({ state, start, length }) => (
          <rect key={start} x={start} width={length} {...SHAPES[state]} className={styles[state]} />
        ))}
      </svg>
    </div>
  );
}

export function PieceLegend() {
  return (
    <ul className={styles.legend} aria-label="What the bands show">
      {STATES.map((state) => (
        <li key={state}>
          <svg width="18" height="12" aria-hidden="true">
            <g transform="scale(1 0.4)">
              <rect width="18" {...SHAPES[state]} className={styles[state]} />
            </g>
          </svg>
          {WORDS[state]}
        </li>
      ))}
    </ul>
  );
}
