import { useVirtualizer } from '@tanstack/react-virtual';
import { type ReactNode, useRef } from 'react';
import styles from './parts.module.css';

/**
 * Rows of one height, of which only those in sight are drawn, however many there are.
 * @param over drawn over all of them, in their coordinates
 */
export function VirtualRows({
  label,
  length,
  height,
  row,
  over,
}: {
  label: string;
  length: number;
  height: number;
  row: (i: number) => ReactNode;
  over?: ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer redraws this component itself
  const rows = useVirtualizer({
    count: length,
    getScrollElement: () => box.current,
    estimateSize: () => height,
    overscan: 12,
  });
  return (
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
}
