import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef } from 'react';
import { bytes, shortened } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAddress } from '~/parts/use-address';
import type { SurveyedFile } from '~/reckoning/views';
import { strayWords } from '~/parts/stray-words';

const ROW = 27;

/** The files as rows; only those in sight are drawn. */
export function FileList({ files, names }: { files: readonly SurveyedFile[]; names: ReadonlyMap<string, string> }) {
  const address = useAddress();
  const box = useRef<HTMLDivElement>(null);
  // eslint-disable-next-line react-hooks/incompatible-library -- the virtualizer redraws this component itself
  const rows = useVirtualizer({
    count: files.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  return (
    <div ref={box} style={{ height: 270, overflow: 'auto' }} role="region" aria-label="Files" tabIndex={0}>
      <div style={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const { path, state, size, name } = files[index]!;
          return (
            <div key={path} style={{ position: 'absolute', top: start, left: 0, right: 0, height: ROW }}>
              <ItemLink to={address.with({ file: path })} current={address.get('file') === path}>
                <span className="mono" style={{ width: 56 }}>
                  {state}
                </span>
                <span className={parts.grow} title={path}>
                  {shortened(path, 60)}
                </span>
                <span className="quiet">{name && strayWords(name, names)}</span>
                <span className="mono">{bytes(size)}</span>
              </ItemLink>
            </div>
          );
        })}
      </div>
    </div>
  );
}
