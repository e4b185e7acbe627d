import { Autocomplete, Checkbox, MultiSelect, Select, TextInput } from '@mantine/core';
import { asBuild } from '#core/builds';
import { count, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import { useFrame } from '~/parts/use-frame';
import type { DraftPlaces } from '~/queries';
import { type DraftChoice, type PartChoice, possibleStarts, WHY_WORDS } from './drafts';
import styles from './shelf.module.css';

/** What stands in the field for the game's own folder, which has no name below itself. */
const GAME_FOLDER = 'the game’s folder';
const MOST_SHOWN = 300;
const MOST_SUGGESTED = 12;

function PartFields({ part, name, change }: { part: PartChoice; name: string; change: (part: PartChoice) => void }) {
  const { rules } = useFrame().index.game;
  const { from, to, paths, why, isTaken } = part;
  const starts = possibleStarts(paths);
  const folders = [rules.modsFolder, ...(rules.layout ?? []).map(({ folder }) => folder)].filter(
    (one) => one !== undefined,
  );
  const suggested = [
    ...new Set([GAME_FOLDER, ...folders, ...(rules.modsFolder ? [`${rules.modsFolder}/${name}`] : [])]),
  ];
  return (
    <div className={styles.part} data-taken={isTaken || undefined}>
      <Checkbox
        checked={isTaken}
        onChange={({ currentTarget: { checked } }) => change({ ...part, isTaken: checked })}
        label={
          <>
            {counted(paths.length, 'file')}
            {from !== '' && (
              <>
                {' '}
                from <span className="mono">{from}</span>
              </>
            )}
          </>
        }
        description={WHY_WORDS[why]}
      />
      <div className={styles.fields}>
        <Select
          size="xs"
          label="From this folder on"
          data={starts.map((value) => ({ value: `/${value}`, label: value === '' ? 'all of it' : value }))}
          value={`/${from}`}
          allowDeselect={false}
          onChange={(value) => value && change({ ...part, from: value.slice(1) })}
        />
        <Autocomplete
          size="xs"
          label="Goes into"
          placeholder="a folder of the game"
          data={suggested}
          value={to === '' ? GAME_FOLDER : (to ?? '')}
          onChange={(value) => {
            const folder = value.trim().replace(/^\/+|\/+$/g, '');
            change({ ...part, to: value === GAME_FOLDER ? '' : folder === '' ? undefined : folder });
          }}
        />
      </div>
    </div>
  );
}

/** A release that nobody knows: what it is called, and where its files go. */
export function DraftCard({
  draft,
  newer,
  archive,
  places,
  question,
  mods,
  change,
}: {
  draft: DraftChoice;
  /** A newer release of it is among the archives too. */
  newer: string | undefined;
  /** The archive's name. */
  archive: string;
  places: DraftPlaces | undefined;
  question: string | undefined;
  /** Names of known mods: a release of one of them is put under it. */
  mods: readonly string[];
  change: (draft: DraftChoice) => void;
}) {
  const { name, version, parts } = draft;
  const builds = useFrame()
    .index.builds.map(({ label }) => label)
    .toReversed();
  const taken = parts.filter(({ isTaken }) => isTaken);
  return (
    <article
      className={styles.card}
      aria-label={name || archive}
      data-open={question !== undefined || taken.length === 0 || undefined}
    >
      <div className="quiet">{archive}</div>
      {newer !== undefined && <Notice>An older release: {newer} is among these archives too.</Notice>}
      <div className={styles.fields}>
        <Autocomplete
          size="xs"
          label="Mod"
          maxLength={80}
          limit={MOST_SUGGESTED}
          data={mods}
          value={name}
          onChange={(value) => change({ ...draft, name: value, mod: undefined })}
        />
        <TextInput
          size="xs"
          label="Release"
          placeholder="such as 1.0"
          maxLength={40}
          value={version}
          onChange={({ currentTarget: { value } }) => change({ ...draft, version: value })}
        />
      </div>
      <MultiSelect
        size="xs"
        label="Made for"
        placeholder={draft.builds.length === 0 ? 'builds that it runs on, where you know them' : ''}
        data={builds}
        value={[...draft.builds]}
        onChange={(labels) => change({ ...draft, builds: labels.map(asBuild) })}
        searchable
        clearable
      />
      <TextInput
        mt={6}
        size="xs"
        label="Where it is from"
        placeholder={archive}
        maxLength={200}
        value={draft.source}
        onChange={({ currentTarget: { value } }) => change({ ...draft, source: value })}
      />
      {draft.mod && <p className="quiet">It goes on the shelf as a release of {draft.mod.name}, which is known.</p>}
      {parts.map((part, i) => (
        <PartFields
          key={i}
          part={part}
          name={name}
          change={(now) => change({ ...draft, parts: parts.map((one, at) => (at === i ? now : one)) })}
        />
      ))}
      {taken.length === 0 && (
        <Notice>Nothing of it is taken yet: tick what belongs to the mod, and say where it goes.</Notice>
      )}
      {taken.length > 0 && question !== undefined && <Notice>{question}</Notice>}
      {places && places.game.length > 0 && (
        <Notice>
          It replaces {counted(places.game.length, 'file')} of the game, such as{' '}
          <span className="mono">{places.game[0]}</span>. Taking the mod out puts{' '}
          {places.game.length === 1 ? 'it' : 'them'} back.
        </Notice>
      )}
      {places && places.mods.length > 0 && <Notice>It covers files of {places.mods.join(', ')}.</Notice>}
      {places && places.places.length > 0 && (
        <details>
          <summary>
            Where {counted(places.places.length, 'file')} {places.places.length === 1 ? 'goes' : 'go'}
          </summary>
          <ul className={`mono ${styles.places}`}>
            {places.places.slice(0, MOST_SHOWN).map(([path, place]) => (
              <li key={path} title={path}>
                {place}
              </li>
            ))}
          </ul>
          {places.places.length > MOST_SHOWN && (
            <p className="quiet">and {count(places.places.length - MOST_SHOWN)} more.</p>
          )}
        </details>
      )}
    </article>
  );
}
