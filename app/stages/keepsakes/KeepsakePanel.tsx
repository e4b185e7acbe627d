import { Button, Checkbox } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { Link } from 'react-router';
import { bagName, isPutBack, type KeepsakeHead, type KeptRow, ownName } from '#core/keepsakes';
import { fileName } from '#core/paths';
import { browserDisk, INSTALL_DISK, archivePath } from '~/folders';
import { jobs } from '~/jobs';
import { bytes, count, counted, exactTime } from '~/parts/format';
import { Ago, Buttons, Notice, Pairs, Section } from '~/parts/parts';
import styles from '~/parts/parts.module.css';
import { saveBlob } from '~/parts/save-file';
import { useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { KeepsakeView } from '~/queries';
import { modsWords, whyWords } from './keepsake-words';
import { type ShownFiles, useShownFiles } from './shown-files';

interface Shown {
  head: KeepsakeHead;
  view: KeepsakeView | undefined;
  /** Names of files that are not put back. */
  leaves: ReadonlySet<string>;
  inFolder: boolean;
  /** The title of the profile that needs it to have its files back. */
  neededBy: string | undefined;
}

/** The files that are put back: those shown that differ and are ticked. */
function chosenOf({ rows }: ShownFiles, leaves: ReadonlySet<string>): KeptRow[] {
  const kept = rows.filter((row) => row.since === undefined);
  return kept.filter((row) => isPutBack(row) && !leaves.has(ownName(row)));
}

/** What a keepsake is of, and what putting it back would do. */
export function KeepsakePanel({ head, view, leaves, inFolder, neededBy, isCopy }: Shown & { isCopy: boolean }) {
  const { likeliest } = useFrame();
  const chosen = chosenOf(useShownFiles(view), leaves);
  const synced = view?.places.filter((place) => place.synced && chosen.some((row) => row.place === place.name)) ?? [];
  const unread = view?.keepsake.unread ?? [];
  const later = head.build !== undefined && likeliest !== undefined && head.build !== likeliest;
  return (
    <>
      <div className="label">
        {whyWords(head)}, <Ago at={head.at} />
      </div>
      <h2 className={styles.big}>{head.build ?? 'Unknown build'}</h2>
      <Pairs
        rows={[
          { name: 'Kept', value: exactTime(head.at) },
          { name: 'Profile', value: head.profile ?? '–' },
          { name: 'Mods in the folder', value: modsWords(head) ?? 'unknown' },
          { name: 'Files', value: `${count(head.files)} · ${bytes(head.bytes)}` },
        ]}
      />
      {unread.length > 0 && (
        <Notice>
          Not in it, since it could not be read: {unread.slice(0, 3).join(', ')}
          {unread.length > 3 && ` and ${count(unread.length - 3)} more`}.
        </Notice>
      )}
      {neededBy !== undefined && (
        <p className="quiet">The files of {neededBy} lie in it, to be put back when you switch.</p>
      )}
      <Section>Putting it back</Section>
      {!view ? (
        <p className="quiet">Comparing with what lies there now …</p>
      ) : chosen.length === 0 && view.since.length === 0 ? (
        <p className="quiet">
          {view.rows.some(({ does }) => does === 'unknown')
            ? 'Some of its places cannot be read just now.'
            : 'Everything in it is as it is now.'}
        </p>
      ) : (
        <Pairs
          rows={[
            {
              name: 'Replace what is there now',
              value: count(chosen.filter(({ does }) => does === 'replaces').length),
            },
            { name: 'Come back', value: count(chosen.filter(({ does }) => does === 'returns').length) },
            { name: 'Made since, not in it', value: count(view.since.length) },
          ]}
        />
      )}
      {chosen.length > 0 && later && (
        <Notice>
          These files are of {head.build}, and the folder is {likeliest}. A save may not load in another build.
        </Notice>
      )}
      {synced.map(({ name, title }) => (
        <Notice key={name}>
          A cloud service synchronises {title}: it may put its own files back over these. Turn it off before you start
          the game.
        </Notice>
      ))}
      {isCopy && (
        <Notice>
          It is gone from the folder’s store, and this is the copy in the browser. Putting it back brings it there
          again.
        </Notice>
      )}
      {!inFolder && (
        <Notice>
          These keepsakes lie in this browser, since Regressum cannot change the folder just now. Download one as an
          archive to take it along.
        </Notice>
      )}
      {chosen.length > 0 && inFolder && (
        <p className="quiet">
          What lies there now is kept as a keepsake first, and what is replaced can be taken back in{' '}
          <Link className="link" to="../history" relative="path">
            History
          </Link>
          .
        </p>
      )}
    </>
  );
}

/** @param takes files made since that are set aside */
function putBackWords(files: number, takes: number): string {
  if (files === 0) return takes > 0 ? `Set ${counted(takes, 'file')} aside` : 'Put files back';
  return `Put ${counted(files, 'file')} back${takes > 0 ? `, set ${count(takes)} aside` : ''}`;
}

/** Puts a keepsake back, packs it or deletes it. */
export function KeepsakeActions({
  head,
  view,
  leaves,
  inFolder,
  neededBy,
  busy,
  more,
}: Shown & { busy: boolean; more: ReactNode }) {
  const { install } = useFrame();
  const [withoutSince, setWithoutSince] = useState(false);
  const { failure, attempt } = useAttempt();
  const address = useAddress();
  const shown = useShownFiles(view);
  const chosen = chosenOf(shown, leaves);
  const since = shown.isPart ? 0 : (view?.since.length ?? 0);
  const packed = shown.rows.filter((row) => !row.since);
  const takes = withoutSince ? since : 0;
  const name = bagName(install.game, new Date(head.at).toISOString());
  const pack = (): void =>
    attempt(async () => {
      await jobs.ended(
        await jobs.start('pack-keepsake', install.id, {
          ...{ keepsake: head.id, at: head.at },
          ...(shown.isPart && { files: packed.map(ownName) }),
        }),
      );
      const path = archivePath(name);
      // A reference to the file: a keepsake of many gigabytes never lies in memory.
      saveBlob(fileName(path), await browserDisk(INSTALL_DISK(install.id)).fileOf(path));
    });
  const putBack = (): void => {
    // The one that is made before is the newest then: this one stays in sight.
    address.set({ keepsake: head.id });
    void jobs.start('put-back', install.id, {
      keepsake: head.id,
      files: chosen.map(ownName),
      withoutSince: takes > 0,
    });
  };
  return (
    <>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {inFolder && since > 0 && (
        <Checkbox
          mb={8}
          size="xs"
          label={`Also set ${counted(since, 'file')} made since aside`}
          checked={withoutSince}
          onChange={({ currentTarget }) => setWithoutSince(currentTarget.checked)}
        />
      )}
      <Buttons>
        {inFolder && (
          <Button disabled={busy || chosen.length + takes === 0} onClick={putBack}>
            {putBackWords(chosen.length, takes)}
          </Button>
        )}
        {more}
        <Button size="xs" variant="default" disabled={busy || packed.length === 0} onClick={pack}>
          Download {shown.isPart && `these ${counted(packed.length, 'file')} `}as an archive
        </Button>
        <Button
          size="xs"
          variant="default"
          disabled={busy || neededBy !== undefined}
          onClick={() => void jobs.start('drop-keepsakes', install.id, { keepsakes: [head.id] })}
        >
          Delete this keepsake
        </Button>
      </Buttons>
    </>
  );
}
