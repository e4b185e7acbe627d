import { attachClosestEdge, extractClosestEdge } from '@atlaskit/pragmatic-drag-and-drop-hitbox/closest-edge';
import { combine } from '@atlaskit/pragmatic-drag-and-drop/combine';
import { draggable, dropTargetForElements } from '@atlaskit/pragmatic-drag-and-drop/element/adapter';
import { useEffect, useEffectEvent, useRef, useState } from 'react';
import { asMod, type ModId } from '#core/builds';
import { counted } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import type { Standing } from './order-words';
import styles from './order.module.css';

interface RowProps {
  readonly mod: ModId;
  readonly place: number;
  readonly name: string;
  readonly release: string;
  readonly standing: Standing | undefined;
  /** What it shares with the mod that is selected. */
  readonly shared: { readonly files: number; readonly isLater: boolean; readonly of: string } | undefined;
  readonly current: boolean;
  readonly canMove: boolean;
  /** Has another mod come right before this one, or right behind it. */
  readonly onDrop: (dropped: ModId, where: 'before' | 'behind') => void;
}

function standingWords({ has, leaves }: Standing): string {
  if (leaves === 0) return `covers ${counted(has, 'file')} of others`;
  if (has === 0) return `${counted(leaves, 'file')} covered by others`;
  return `covers ${counted(has, 'file')}, ${leaves} covered`;
}

/** A mod of the order, to be selected, or dragged to another place. */
export function OrderRow({ mod, place, name, release, standing, shared, current, canMove, onDrop }: RowProps) {
  const row = useRef<HTMLDivElement>(null);
  const [edge, setEdge] = useState<'top' | 'bottom' | null>(null);
  const [isDragged, setDragged] = useState(false);
  const drop = useEffectEvent(onDrop);
  useEffect(() => {
    const element = row.current!;
    // A link is dragged as an address otherwise.
    element.querySelector('a')!.draggable = false;
    if (!canMove) return undefined;
    return combine(
      draggable({
        element,
        getInitialData: () => ({ mod }),
        onDragStart: () => setDragged(true),
        onDrop: () => setDragged(false),
      }),
      dropTargetForElements({
        element,
        canDrop: ({ source }) => typeof source.data.mod === 'string',
        getData: ({ input }) => attachClosestEdge({ mod }, { element, input, allowedEdges: ['top', 'bottom'] }),
        onDrag: ({ self, source }) =>
          setEdge(source.data.mod === mod ? null : (extractClosestEdge(self.data) as 'top' | 'bottom' | null)),
        onDragLeave: () => setEdge(null),
        onDrop: ({ self, source }) => {
          setEdge(null);
          const where = extractClosestEdge(self.data) === 'top' ? 'before' : 'behind';
          if (source.data.mod !== mod) drop(asMod(String(source.data.mod)), where);
        },
      }),
    );
  }, [mod, canMove]);
  return (
    <div
      ref={row}
      className={styles.row}
      data-edge={edge ?? undefined}
      data-dragged={isDragged || undefined}
      data-shared={shared ? (shared.isLater ? 'later' : 'earlier') : undefined}
    >
      <ItemLink changes={{ mod }} current={current}>
        <span className={`mono ${styles.place}`}>{place + 1}</span>
        <span className={parts.grow}>
          {name} <span className="mono quiet">{release}</span>
        </span>
        <span className="quiet">
          {shared
            ? shared.isLater
              ? `covers ${counted(shared.files, 'file')} of ${shared.of}`
              : `${counted(shared.files, 'file')} covered by ${shared.of}`
            : standing && standingWords(standing)}
        </span>
      </ItemLink>
    </div>
  );
}
