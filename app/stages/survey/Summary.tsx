import { countTable, type FileState, STATES } from '#core/survey';
import { STATE_WORDS } from '~/parts/state-marks';
import { failureWords } from '~/parts/failure-words';
import { bytes, count, counted } from '~/parts/format';
import { Ago, Figure, Figures, Notice, Pairs, Section } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import parts from '~/parts/parts.module.css';
import { Misplaced } from '~/parts/Misplaced';
import { fromWords } from '~/parts/stray-words';
import type { Address } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import type { SurveyView } from '~/queries';
import { ReviewCleanUp } from './CleanUp';
import { Compare } from './Difference';
import { Keepsakes } from './Keepsakes';
import { mixedWords } from './mixed-words';
import { RecordBuild } from './RecordBuild';
import { Room } from './Room';

const COLORS: Record<FileState, string> = {
  true: 'var(--teal)',
  altered: 'var(--ochre-fill)',
  absent: 'var(--brick)',
  stray: 'var(--blue)',
  unreadable: 'var(--soft)',
};
const MOST_UNREADABLE = 5;

/** The whole folder in a few figures, and what can be done with it. */
export function Summary({
  view,
  names,
  past,
  canClean,
  address,
}: {
  view: SurveyView;
  names: ReadonlyMap<string, string>;
  past: readonly number[];
  /** Whether the folder can be changed from here. */
  canClean: boolean;
  address: Address;
}) {
  const { install } = useFrame();
  const { table, likeliest, learned } = view;
  const states = countTable(table, table.states, STATES.length);
  const twice = view.installed.filter(({ alsoHere }) => alsoHere.length > 0);
  const title = (id: string): string => names.get(id) ?? id;
  return (
    <>
      <div className="label">On disk</div>
      <h2 className={parts.big}>{learned?.label ?? likeliest ?? 'No known build'}</h2>
      <div className="quiet">
        {learned && (
          <>
            Your own record, {fromWords(learned.from)} <Ago at={learned.at} />:{' '}
            {learned.found === learned.total
              ? 'every file of it is here'
              : `${count(learned.found)} of ${count(learned.total)} files are here`}
            <br />
          </>
        )}
        {counted(table.paths.length, 'file')}, checked <Ago at={view.at} />
        {view.trusted > 0 && <>; {count(view.trusted)} not read again: same size and time</>}
      </div>
      {!view.fresh && <Stale>Check it again.</Stale>}
      {view.versions.map(({ path, version, agrees }) =>
        agrees === false ? (
          <Notice key={path}>
            {path} says {version}, but the files are of {learned?.label ?? likeliest}.
          </Notice>
        ) : (
          <div key={path} className="quiet">
            {path} says {version}
          </div>
        ),
      )}
      {view.mixed.map((mixed) => (
        <Notice key={mixedWords(mixed, view.depots)}>{mixedWords(mixed, view.depots)}</Notice>
      ))}
      <Figures>
        {STATES.map((state, i) =>
          // That something could not be read is rare, and told where it is so.
          state === 'unreadable' && states[i]!.files === 0 ? null : (
            <Figure key={state} value={count(states[i]!.files)} label={STATE_WORDS[state]} color={COLORS[state]} />
          ),
        )}
      </Figures>
      <Cleaning cleaning={view.cleaning} canClean={canClean && likeliest !== undefined && !learned} />
      <Misplaced install={install.id} busy={!canClean} since={view.at} />
      {twice.map(({ mod, release, alsoHere }) => (
        <Notice key={mod}>
          {title(mod)} {release} lies beside files of {alsoHere.join(', ')}
        </Notice>
      ))}
      {view.unreadable.slice(0, MOST_UNREADABLE).map(({ path, failure }) => (
        <Notice key={path} tone="wrong">
          {path} could not be read. {failureWords(failure).what}
        </Notice>
      ))}
      {view.unreadable.length > MOST_UNREADABLE && (
        <Notice tone="wrong">{counted(view.unreadable.length - MOST_UNREADABLE, 'more file')} could not be read</Notice>
      )}
      <Keepsakes own={view.own} />
      <Room />
      <Compare past={past} now={view.at} address={address} />
      <RecordBuild open={likeliest === undefined && learned === undefined} />
    </>
  );
}

function Cleaning({ cleaning, canClean }: { cleaning: SurveyView['cleaning']; canClean: boolean }) {
  const all = [
    ['Set aside', cleaning.setAside],
    ['Move back', cleaning.moveBack],
    ['Fetch', cleaning.fetch],
  ] as const;
  const rows = all.filter(([, { files }]) => files > 0);
  return (
    <>
      <Section>Clean-up needed</Section>
      {rows.length === 0 ? (
        <p className="quiet">None: every file belongs to the build, a mod or you.</p>
      ) : (
        <>
          <Pairs
            rows={rows.map(([name, { files, bytes: size }]) => ({
              name,
              value: `${counted(files, 'file')} · ${bytes(size)}`,
            }))}
          />
          {canClean && <ReviewCleanUp />}
        </>
      )}
    </>
  );
}
