import { counted } from '~/parts/format';
import { errorWords } from '~/parts/failure-words';
import { Notice, Section } from '~/parts/parts';
import type { ArchivesOffer } from '~/commands';
import { DraftCard } from './DraftCard';
import styles from './shelf.module.css';
import type { ArchivesAtHand } from './use-archives';

function KnownCard({
  known,
  archives,
}: {
  known: ArchivesOffer['read']['known'][number];
  archives: readonly string[];
}) {
  const { name, release, files, missing, newer } = known;
  const from = [...new Set(files.map(({ archive }) => archives[archive]))].join(', ');
  return (
    <article className={styles.card} aria-label={name} data-open={missing.length > 0 || undefined}>
      <div className="quiet">{from}</div>
      <h3 className={styles.name}>
        {name} <span className="mono">{release}</span>
      </h3>
      <p className="quiet">
        Known by the bytes of {counted(files.length, 'file')}: each goes where the release has it.
      </p>
      {newer !== undefined && <Notice>An older release: {newer} is among these archives too.</Notice>}
      {missing.length > 0 && (
        <Notice>
          {counted(missing.length, 'file')} of it {missing.length === 1 ? 'is' : 'are'} in none of these archives, such
          as <span className="mono">{missing[0]}</span>. Add the archive that has {missing.length === 1 ? 'it' : 'them'}{' '}
          together with this one.
        </Notice>
      )}
    </article>
  );
}

/** What archives have that came together: each release, and where its files go. */
export function ArchivesIn({
  at,
  mods,
}: {
  at: ArchivesAtHand & { readonly offer: ArchivesOffer };
  mods: readonly string[];
}) {
  const { offer, drafts, places, questions, change } = at;
  const names = offer.archives.map(({ name }) => name);
  const { known, aside } = offer.read;
  return (
    <div className={styles.cards}>
      {offer.refused.map(({ name, failure }) => {
        const { what, next } = errorWords(failure);
        return (
          <Notice key={name} tone="wrong">
            {what} <span className="quiet">{next}</span>
          </Notice>
        );
      })}
      {known.map((one) => (
        <KnownCard key={`${one.mod} ${one.release}`} known={one} archives={names} />
      ))}
      {drafts.map((draft, i) => (
        <DraftCard
          key={i}
          draft={draft}
          newer={offer.read.drafts[i]?.newer}
          archive={names[draft.archive]!}
          places={places[i]}
          question={questions[i]}
          mods={mods}
          change={(now) => change(i, now)}
        />
      ))}
      {known.length + drafts.length === 0 && offer.archives.length > 0 && (
        <Notice>There is nothing for this game in {names.join(', ')}: only notes and pictures.</Notice>
      )}
      {aside.length > 0 && (
        <>
          <Section>Left out</Section>
          <p className="quiet">
            {counted(aside.length, 'note or picture', 'notes and pictures')} about the mods, which go nowhere:{' '}
            <span className="mono">
              {aside
                .slice(0, 6)
                .map(({ path }) => path)
                .join(', ')}
            </span>
            {aside.length > 6 && ' and more'}.
          </p>
        </>
      )}
    </div>
  );
}
