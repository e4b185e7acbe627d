import { Button, Checkbox, FileButton, Textarea } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import { type ArchivesOffer, pinMod, readHandedMods, takeOffShelf, writeOnShelf } from '~/commands';
import { isUnderWay, useJobs } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { FilterInput } from '~/parts/FilterInput';
import { bytes, count, counted } from '~/parts/format';
import listing from '~/parts/listing.module.css';
import { Opening } from '~/parts/Opening';
import { Ago, Buttons, Empty, Figure, Figures, ItemLink, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { VirtualRows } from '~/parts/VirtualRows';
import { query } from '~/queries';
import { ArchivesIn } from './ArchivesIn';
import { FollowedPlaces } from './Followed';
import { FILTER_WORDS, filtered, SHELF_FILTERS, type Shelved } from './filters';
import styles from './shelf.module.css';
import { type ArchivesAtHand, useArchives } from './use-archives';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const [view, followed] = await Promise.all([query('shelf', params.install!), query('followed', params.install!)]);
  return { view, followed };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="Shelf" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

/** Kinds of archives that are read; the browser shows no others where it lets choose files. */
const ACCEPTED = '.zip,.7z,.rar,.tar,.tgz,.gz,.txz,.xz,.bz2,.zst';

function AddArchives({ at, busy, large }: { at: ArchivesAtHand; busy: boolean; large: boolean }) {
  return (
    <FileButton
      multiple
      accept={ACCEPTED}
      onChange={(files) => files.length > 0 && at.open(files)}
      inputProps={{ 'aria-label': 'Archives of mods' }}
    >
      {(props) => (
        <Button {...props} {...(!large && { size: 'xs', variant: 'default' })} loading={at.busy} disabled={busy}>
          Add archives
        </Button>
      )}
    </FileButton>
  );
}

const ROW = 34;

/** What a row says of where a release lies. */
function placeWords({ missing, inFolder, isOffered }: Shelved): string {
  if (missing > 0) return `${counted(missing, 'content')} missing`;
  if (inFolder) return 'in the folder';
  return isOffered ? 'on the shelf' : 'on the shelf only';
}

function ShelfRows({ releases, shown }: { releases: readonly Shelved[]; shown: Shelved | undefined }) {
  return (
    <div className={listing.middle}>
      <VirtualRows
        label="Releases on the shelf"
        length={releases.length}
        height={ROW}
        row={(i) => {
          const release = releases[i]!;
          const { name, version, ran, unofficial, isFrozen, bytes: size } = release;
          return (
            <ItemLink changes={{ release: release.reference }} current={release === shown}>
              <span className={parts.grow} title={name}>
                {name} <span className="mono quiet">{version}</span>
                {unofficial !== undefined && <span className={styles.mark}>unofficial</span>}
                {isFrozen && <span className={styles.mark}>frozen</span>}
              </span>
              <span className={styles.where}>{placeWords(release)}</span>
              <span className={`mono quiet ${styles.ran}`}>{ran.length > 0 ? `ran on ${ran.at(-1)}` : ''}</span>
              <span className={`mono ${styles.size}`}>{bytes(size)}</span>
            </ItemLink>
          );
        }}
      />
    </div>
  );
}

/** What the person has to say of a release. */
function Words({ release }: { release: Shelved }) {
  const { install } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const [words, setWords] = useState(release.words);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        attempt(() => writeOnShelf(install.game, release.mod, release.version, words));
      }}
    >
      <Textarea
        mt={10}
        size="xs"
        label="Your note"
        maxLength={2000}
        autosize
        maxRows={8}
        value={words}
        onChange={({ currentTarget: { value } }) => setWords(value)}
      />
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      {words.trim() !== release.words && (
        <Buttons>
          <Button mt={6} type="submit" size="xs" variant="default" loading={busy}>
            Keep the note
          </Button>
        </Buttons>
      )}
    </form>
  );
}

function Freezing({ release: { mod, name, version, isFrozen } }: { release: Shelved }) {
  const { install } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  return (
    <>
      <p className="quiet">
        {isFrozen
          ? `Frozen: ${name} stays at ${version} in this folder, whatever comes out.`
          : `Freeze it, and ${name} stays at ${version} in this folder, whatever comes out.`}
      </p>
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      <Button
        size="xs"
        variant="default"
        loading={busy}
        onClick={() => attempt(() => pinMod(install.id, mod, isFrozen ? undefined : version))}
      >
        {isFrozen ? 'Thaw' : `Freeze at ${version}`}
      </Button>
    </>
  );
}

function ReleasePanel({ release }: { release: Shelved }) {
  const { name, version, at, from, unofficial, files, missing, ran, failed, note, paths } = release;
  const { inFolder, isOffered, isWanted, bytes: size } = release;
  return (
    <>
      <div className="label">
        <Ago at={at} />
      </div>
      <h2 className={parts.big}>
        {name} <span className="mono">{version}</span>
      </h2>
      <p className="quiet">
        A copy of your own, {from === undefined ? 'kept' : `taken from ${from}`}: no catalogue can withdraw or change
        it.
      </p>
      {unofficial !== undefined && <Notice>Unofficial, from {unofficial}.</Notice>}
      {unofficial === undefined && !isOffered && <Notice>No catalogue has it with its files any more.</Notice>}
      <Pairs
        rows={[
          { name: 'Contents', value: count(files) },
          { name: 'On the drive', value: bytes(size) },
          ...(missing > 0 ? [{ name: 'Missing', value: count(missing), color: 'var(--brick)' }] : []),
          { name: 'In the folder', value: inFolder ? 'yes' : 'no' },
          { name: 'Part of a target', value: isWanted ? 'yes' : 'no' },
          { name: 'Ran here on', value: ran.join(', ') || 'no build yet' },
          ...(failed.length > 0 ? [{ name: 'Failed here on', value: failed.join(', ') }] : []),
        ]}
      />
      {note !== undefined && <Notice>{note}</Notice>}
      <Freezing release={release} />
      <Words key={release.reference} release={release} />
      {paths.length > 0 && (
        <>
          <Section>Its files</Section>
          <ul className="mono">
            {paths.slice(0, MOST_PATHS).map((path) => (
              <li key={path}>{path}</li>
            ))}
          </ul>
          {paths.length > MOST_PATHS && <p className="quiet">and {count(paths.length - MOST_PATHS)} more.</p>}
        </>
      )}
    </>
  );
}

const MOST_PATHS = 40;

/** What the shelf comes to, while no release is selected. */
function Overview({ releases }: { releases: readonly Shelved[] }) {
  const sum = (some: readonly Shelved[]): number => some.reduce((all, { bytes: size }) => all + size, 0);
  const going = filtered(releases, 'can-go', '');
  return (
    <>
      <div className="label">On the shelf</div>
      <h2 className={parts.big}>{counted(releases.length, 'release')}</h2>
      <Figures>
        <Figure value={bytes(sum(releases))} label="on the drive" color="var(--blue)" />
        <Figure
          value={count(filtered(releases, 'alone', '').length)}
          label="to be had nowhere else"
          color="var(--ochre-fill)"
        />
        <Figure value={bytes(sum(going))} label="can go" color="var(--teal)" />
      </Figures>
      <p className="quiet">
        Releases come here from archives and followed folders, and whenever one goes out of the folder: by laying down,
        by a step of Mend, or with a profile.
      </p>
    </>
  );
}

/** What was read, by what it is. */
function readWords(archives: ArchivesOffer['archives']): string {
  const folders = archives.filter(({ from }) => !(from instanceof File)).length;
  return folders > 0 ? counted(folders, 'folder') : counted(archives.length, 'archive');
}

/** What was found in archives, and the one thing to do with it. */
function Found({ at }: { at: ArchivesAtHand & { readonly offer: NonNullable<ArchivesAtHand['offer']> } }) {
  const { offer, drafts, whole, questions } = at;
  const asked = drafts.filter(
    ({ parts: own }, i) => questions[i] !== undefined || !own.some(({ isTaken }) => isTaken),
  ).length;
  return (
    <>
      <div className="label">{readWords(offer.archives)} read</div>
      <h2 className={parts.big}>{counted(offer.read.known.length + drafts.length, 'release')}</h2>
      <Figures>
        <Figure value={count(whole.length)} label="known" color="var(--teal)" />
        <Figure value={count(drafts.length)} label="new" color="var(--blue)" />
        <Figure value={count(asked)} label="to settle" color="var(--ochre)" />
      </Figures>
      <p className="quiet">
        Releases go onto the shelf as copies of your own, marked unofficial where no catalogue has them. No file of the
        game is changed by that.
      </p>
    </>
  );
}

export default function Shelf() {
  const { view, followed } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  const address = useAddress();
  const at = useArchives();
  const [wants, setWants] = useState(true);
  const takeHanded = useEffectEvent((files: readonly File[]) => at.open(files));
  useEffect(() => readHandedMods(takeHanded), []);
  const busy = useJobs().some((job) => job.record.install === install.id && isUnderWay(job));
  const only = SHELF_FILTERS.find((one) => one === address.get('only')) ?? 'all';
  const listed = filtered(view.releases, only, address.get('filter') ?? '');
  const going = useAttempt();
  const shown = view.releases.find(({ reference }) => reference === address.get('release'));
  const { offer } = at;
  const opened = offer && { ...at, offer };
  return (
    <StagePage
      title="Shelf"
      left={
        <>
          <div className={`label ${parts.heading}`}>Shelf</div>
          <div className={listing.line}>
            <AddArchives at={at} busy={busy || !view.canKeep} large={false} />
            {at.reading !== undefined && <p className="quiet">Reading {at.reading}</p>}
            {view.releases.length > 8 && (
              <FilterInput name="filter" label="Filter the shelf" placeholder="Mod, release or archive" />
            )}
          </div>
          <p className={listing.line}>
            <Link className="link" to={`/${install.id}/order`}>
              Load order of the mods
            </Link>
          </p>
          {view.releases.length > 0 &&
            SHELF_FILTERS.map((one) => {
              const releases = filtered(view.releases, one, '').length;
              return (
                (releases > 0 || one === 'all' || one === only) && (
                  <ItemLink key={one} changes={{ only: one === 'all' ? undefined : one }} current={one === only}>
                    <span className={parts.grow}>{FILTER_WORDS[one]}</span>
                    <span className="mono quiet">{count(releases)}</span>
                  </ItemLink>
                )
              );
            })}
          {view.canKeep && <FollowedPlaces views={followed} busy={busy || at.busy} open={at.open} />}
        </>
      }
      middle={
        opened ? (
          <ArchivesIn at={opened} mods={view.mods} />
        ) : view.releases.length > 0 ? (
          <ShelfRows releases={listed} shown={shown} />
        ) : (
          <Empty
            title="Nothing is on the shelf yet"
            action={<AddArchives at={at} busy={busy || !view.canKeep} large />}
          >
            Add archives of mods, or drop them anywhere in the window: ZIP, 7z, RAR or tar, several at once. Each is
            read, told for what it is, and placed by the rules of the game before anything is written.
          </Empty>
        )
      }
      right={
        <>
          {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
          {at.done !== undefined && (
            <Notice tone="right">
              {counted(at.done, 'release')} put on the shelf.{' '}
              {install.target ? (
                <Link className="link" to={`/${install.id}/assemble`}>
                  Lay the folder down with {at.done === 1 ? 'it' : 'them'} under Assemble
                </Link>
              ) : (
                <Link className="link" to={`/${install.id}/choose`}>
                  Select a build to lay {at.done === 1 ? 'it' : 'them'} down with under Choose
                </Link>
              )}
              .
            </Notice>
          )}
          {!view.canKeep && (
            <Notice>This folder can only be looked at from here, so nothing can be kept for it.</Notice>
          )}
          {opened ? (
            <Found at={opened} />
          ) : shown ? (
            <ReleasePanel release={shown} />
          ) : (
            view.releases.length > 0 && <Overview releases={view.releases} />
          )}
        </>
      }
      action={
        opened ? (
          <div className={styles.putting}>
            <Checkbox
              checked={wants}
              onChange={({ currentTarget: { checked } }) => setWants(checked)}
              label="Add them to the mods of this folder"
            />
            {at.ready > 0 && at.ready < offer!.read.known.length + at.drafts.length && (
              <p className="quiet">What is not settled is left out.</p>
            )}
            <Buttons>
              <Button disabled={busy || at.busy || at.ready === 0} loading={at.busy} onClick={() => at.put(wants)}>
                Put {counted(at.ready, 'release')} on the shelf
              </Button>
              <Button variant="default" onClick={at.cancel}>
                Cancel
              </Button>
            </Buttons>
          </div>
        ) : (
          <>
            {going.failure !== undefined && <Notice tone="wrong">{going.failure}</Notice>}
            {only === 'can-go' && (
              <p className="quiet">Not in this folder, in no target, without a note, and a catalogue still has them.</p>
            )}
            <Buttons>
              {only === 'can-go' && listed.length > 0 && (
                <Button
                  disabled={busy}
                  loading={going.busy}
                  onClick={() => going.attempt(() => takeOffShelf(install.id, listed))}
                >
                  Take {counted(listed.length, 'release')} off the shelf,{' '}
                  {bytes(listed.reduce((sum, one) => sum + one.bytes, 0))}
                </Button>
              )}
              {shown && (
                <Button
                  variant="default"
                  disabled={busy}
                  loading={going.busy}
                  onClick={() => going.attempt(() => takeOffShelf(install.id, [shown]))}
                >
                  Take it off the shelf, {bytes(shown.bytes)}
                </Button>
              )}
            </Buttons>
          </>
        )
      }
    />
  );
}
