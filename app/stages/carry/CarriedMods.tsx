import { counted } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import type { CarryView } from '~/queries';
import styles from './carry.module.css';

/** The mods that can be carried. */
export function CarriedMods({ all, current }: { all: readonly CarryView[]; current: string | undefined }) {
  return (
    <>
      <h2 className={`label ${parts.heading}`}>Mods to carry</h2>
      {all.map(({ mod, name, files, carried }) => (
        <ItemLink
          key={mod}
          changes={{ mod, file: undefined, at: undefined, from: undefined, release: undefined }}
          current={mod === current}
        >
          <span className={`${parts.grow} ${styles.two}`}>
            <span>{name}</span>
            <span className={styles.state}>
              {carried.length > 0
                ? `carried: ${carried.at(-1)!}`
                : `${counted(files.filter(({ state }) => state === 'changed').length, 'file')} changed by the patch`}
            </span>
          </span>
        </ItemLink>
      ))}
      {all.length === 0 && (
        <p className={`quiet ${styles.group}`}>No mod without a release uses a file that changed.</p>
      )}
    </>
  );
}
