import { count, counted } from '~/parts/format';
import { ItemLink } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import type { CarryView } from '~/queries';
import type { MergedFile } from '~/workers';
import { STATE_WORDS } from './carry-words';
import styles from './carry.module.css';

/** The state of a file in few words. */
function fileWords(file: CarryView['files'][number], merged: MergedFile | undefined): string {
  if (file.state !== 'changed') return STATE_WORDS[file.state];
  if (!merged) return 'not compared yet';
  if (merged.kind === undefined) return 'kept as it is: nothing explains it';
  const { clean, decided, open } = merged.count;
  if (open > 0) return `${count(open)} to decide`;
  return `${counted(clean, 'change')} without conflict${decided > 0 ? `, ${count(decided)} decided` : ''}`;
}

/** The folder that all lie in, with its slash. */
function sharedFolder(paths: readonly string[]): string {
  const [first = '', ...others] = paths;
  let end = first.lastIndexOf('/') + 1;
  while (end > 0 && !others.every((path) => path.startsWith(first.slice(0, end))))
    end = first.lastIndexOf('/', end - 2) + 1;
  return first.slice(0, end);
}

/** The files of a mod, each with what became of it. */
export function CarriedFiles({
  view,
  merged,
  current,
}: {
  view: CarryView;
  merged: ReadonlyMap<string, MergedFile>;
  current: string | undefined;
}) {
  const shared = sharedFolder(view.files.map(({ path }) => path));
  return (
    <>
      <h2 className={`label ${parts.heading}`}>Files of {view.name}</h2>
      {view.files.map((file) => {
        const own = merged.get(file.path);
        return (
          <ItemLink key={file.path} changes={{ file: file.path, at: undefined }} current={file.path === current}>
            <span className={`${parts.grow} ${styles.two}`}>
              <span className="mono" title={file.path}>
                {file.path.slice(shared.length)}
              </span>
              <span className={styles.state} data-open={(own && own.count.open > 0) || undefined}>
                {fileWords(file, own)}
              </span>
            </span>
          </ItemLink>
        );
      })}
    </>
  );
}
