import { useMemo } from 'react';
import { countTable } from '#core/survey';
import { bytes, count, counted } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { groupWords } from '~/parts/stray-words';
import type { Address } from '~/parts/use-address';
import type { SurveyView } from '~/queries';

/** The depots with what lies of each, and the files that are none of theirs by whose they are. */
export function Things({
  view,
  names,
  address,
}: {
  view: SurveyView;
  names: ReadonlyMap<string, string>;
  address: Address;
}) {
  const { table, depots, likeliest } = view;
  const groups = useMemo(() => {
    const counts = countTable(table, table.whose, table.groups.length);
    return table.groups
      .map((group, place) => ({ group, place, ...counts[place]! }))
      .toSorted((a, b) => rank(a.group.kind) - rank(b.group.kind) || b.bytes - a.bytes);
  }, [table]);
  const whose = address.get('whose');
  return (
    <>
      <div className={`label ${parts.heading}`}>Depots on disk</div>
      {depots.map(({ depot, order, title, found, total, builds, bytes: sums }) => (
        <div
          key={depot}
          className={parts.item}
          title={`${count(found)} of ${count(total)} files match; ${bytes(sums.found)} of ${bytes(sums.expected)} on disk`}
        >
          <span className="mono quiet">{order}</span>
          <span className={parts.grow}>
            {title}
            <div className="quiet">
              {total === 0 ? 'no file matches' : `${count(found)} of ${count(total)}`}
              {sums.expected > 0 && ` · ${bytes(sums.found)}`}
            </div>
          </span>
          <span className="mono">{builds.includes(likeliest!) ? likeliest : (builds.at(-1) ?? '–')}</span>
        </div>
      ))}
      {groups.length > 0 && <div className={`label ${parts.heading}`}>Other files by owner</div>}
      {groups.map(({ group, place, files, bytes: size }) => {
        const current = whose === String(place);
        return (
          <ItemLink key={place} changes={{ whose: current ? undefined : String(place) }} current={current}>
            <span className={parts.grow}>
              {groupWords(group, names)}
              <div className="quiet">
                {counted(files, 'file')} · {bytes(size)}
              </div>
            </span>
          </ItemLink>
        );
      })}
    </>
  );
}

/** What wants attention stands first, what is many comes last. */
function rank(kind: string): number {
  return ['unknown', 'leftover', 'learned', 'own', 'load-order', 'loader', 'mod'].indexOf(kind);
}
