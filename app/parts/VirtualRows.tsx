import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useEffect, useEffectEvent, useRef } from 'react';
import styles from './parts.module.css';

/** What of the rows is in sight, in pixels from the first one's top. */
export interface InSight {
  readonly top: number;
  readonly height: number;
}

/**
 * Rows of one height, of which only those in sight are drawn, however many there are.
 * @param shown the row that is scrolled into sight whenever it is another one
 * @param over drawn over all of them, in their coordinates
 * @param beside drawn to the left of them, and not scrolled with them
 */
export function VirtualRows({
  label,
  length,
  height,
  row,
  shown,
  over,
  beside,
}: {
  label: string;
  length: number;
  height: number;
  row: (i: number) => ReactNode;
  shown?: number;
  over?: ReactNode;
  beside?: (inSight: InSight) => ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer redraws this component itself
  const rows = useVirtualizer({
    count: length,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 12,
  });
  const scrollTo = useEffectEvent((i: number) => rows.scrollToIndex(i, { align: 'auto' }));
  useEffect(() => {
    if (shown !== undefined && shown >= 0) scrollTo(shown);
  }, [shown]);
  const list = (
    <div ref={box} className={styles.rows} role="region" aria-label={label} tabIndex={0}>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => (
          <div key={index} style={{ position: 'absolute', top: start, left: 0, right: 0, height }}>
            {row(index)}
          </div>
        ))}
        {over}
      </div>
    </div>
  );
  if (!beside) return list;
  return (
    <div className={styles.besideRows}>
      {beside({ top: rows.scrollOffset ?? 0, height: rows.scrollRect?.height ?? 0 })}
      {list}
    </div>
  );
}
