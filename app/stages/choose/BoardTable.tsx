import type { BuildChoice } from '#core/choose';
import { modNames } from '~/parts/mod-names';
import { ItemLink } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import type { ChooseView } from '~/queries';
import { type BoardEntry, CHANGE_TITLES, WEIGHT_TITLES } from './board-rows';
import styles from './choose.module.css';
import { lossWords } from './loss-words';

/** The board in words: what becomes of each mod at the build that is looked at. */
export function BoardTable({
  entries,
  choice,
  view,
}: {
  entries: readonly BoardEntry[];
  choice: BuildChoice;
  view: ChooseView;
}) {
  const address = useAddress();
  const names = modNames(view.catalogue);
  return (
    <div className={styles.scrolls} role="region" aria-label="Mods" tabIndex={0}>
      <table className={styles.table}>
        <caption className="unseen">Outcome for each mod at {choice.build}</caption>
        <thead>
          <tr>
            <th scope="col">Mod</th>
            <th scope="col">Author</th>
            <th scope="col">Weight</th>
            <th scope="col">On disk</th>
            <th scope="col">At {choice.build}</th>
            <th scope="col">Outcome</th>
          </tr>
        </thead>
        <tbody>
          {entries.map((entry) =>
            entry.kind === 'title' ? (
              <tr key={`title ${entry.title}`}>
                <th scope="rowgroup" colSpan={6} className="label">
                  {entry.title}
                </th>
              </tr>
            ) : (
              <tr key={entry.row.mod.id}>
                <th scope="row">
                  <ItemLink changes={{ mod: entry.row.mod.id }} current={address.get('mod') === entry.row.mod.id}>
                    {entry.row.mod.name}
                  </ItemLink>
                </th>
                <td>{entry.row.mod.author || '–'}</td>
                <td>{entry.row.weight ? WEIGHT_TITLES[entry.row.weight] : 'required by others'}</td>
                <td className="mono">{entry.row.onDisk ?? '–'}</td>
                <td className="mono">{entry.row.chosen ?? '–'}</td>
                <td>
                  {CHANGE_TITLES[entry.row.change]}
                  {entry.row.loss && `: ${lossWords(entry.row.loss, choice.build, names)}`}
                </td>
              </tr>
            ),
          )}
        </tbody>
      </table>
    </div>
  );
}
