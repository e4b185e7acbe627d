import { Button, Checkbox } from '@mantine/core';
import {
  allowFollowed,
  canPick,
  decideFollowed,
  followEach,
  followedName,
  followFolder,
  type FolderToRead,
  foldersToRead,
  forgetGone,
  isNews,
  pickFolder,
  stopFollowing,
} from '~/commands';
import { ServedWay } from '~/parts/add-folder/ServedWay';
import { failureWords } from '~/parts/failure-words';
import { bytes, counted } from '~/parts/format';
import listing from '~/parts/listing.module.css';
import { Buttons, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { FollowedFolder, FollowedView } from '~/queries';
import styles from './shelf.module.css';

/** What has become of a mod's folder since a person decided about it. */
function becameWords({ does, releases, files, bytes: size }: FollowedFolder): string {
  const at = releases.map(({ version }) => version).join(', ');
  switch (does) {
    case 'new':
      return `not looked at yet · ${counted(files, 'file')}, ${bytes(size)}`;
    case 'changed':
      return at === '' ? 'changed since you left it out' : `changed since ${at} was taken`;
    case 'frozen':
      return `changed; yours is frozen at ${at}`;
    case 'same':
      return `${at}, as it was taken`;
    case 'passed':
      return at === '' ? 'left out' : `changed since; you stay at ${at}`;
    case 'gone':
      return at === '' ? 'no longer there' : `no longer there; ${at} stays on the shelf`;
  }
}

/** What a person says who does not want what has changed. */
const leaveWords = ({ releases }: FollowedFolder): string =>
  releases.length > 0 ? `Stay at ${releases.map(({ version }) => version).join(', ')}` : 'Leave it out';

function Folder({ view, folder, busy }: { view: FollowedView; folder: FollowedFolder; busy: boolean }) {
  const { install } = useFrame();
  const { failure, attempt } = useAttempt();
  const isOpen = isNews(folder);
  return (
    <div className={styles.followed} data-news={isOpen || undefined}>
      <b className={parts.grow}>{followedName(folder, view.title)}</b>
      <div className="quiet">{becameWords(folder)}</div>
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      {isOpen && (
        <Button
          size="compact-xs"
          variant="default"
          disabled={busy}
          onClick={() =>
            attempt(() => decideFollowed(install.id, view.name, [{ folder: folder.folder, state: folder.state }]))
          }
        >
          {leaveWords(folder)}
        </Button>
      )}
      {folder.does === 'gone' && (
        <Button
          size="compact-xs"
          variant="default"
          disabled={busy}
          onClick={() => attempt(() => forgetGone(install.id, view.name, folder.folder))}
        >
          Take it off this list
        </Button>
      )}
    </div>
  );
}

/** Mods that nothing is to be done about, and that are shown all the same. */
const MOST_OPEN = 6;

function FollowedPlace({
  view,
  busy,
  open,
}: {
  view: FollowedView;
  busy: boolean;
  open: (folders: readonly FolderToRead[]) => void;
}) {
  const { install } = useFrame();
  const { failure, attempt } = useAttempt();
  const { name, title, each, folders } = view;
  const news = folders.filter(isNews);
  const at = install.followed?.find((one) => one.name === name)?.at;
  const others = folders.filter((one) => !isNews(one));
  const row = (folder: FollowedFolder) => <Folder key={folder.folder} view={view} folder={folder} busy={busy} />;
  return (
    <section className={listing.line} aria-label={`Followed: ${title}`}>
      <b>{title}</b>
      {view.failure && <Notice>{failureWords(view.failure).what}</Notice>}
      {view.failure?.code === 'folder/no-permission' && at?.kind === 'picked' && (
        <Button size="xs" variant="default" onClick={() => attempt(() => allowFollowed(install.id, at))}>
          Allow reading it
        </Button>
      )}
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      {news.length > 0 && (
        <Buttons>
          <Button
            size="xs"
            disabled={busy}
            onClick={() => attempt(async () => open(await foldersToRead(install.id, view, news)))}
          >
            Read {counted(news.length, 'mod')} there
          </Button>
        </Buttons>
      )}
      {news.map(row)}
      {others.length > MOST_OPEN ? (
        <details>
          <summary>{counted(others.length, 'other mod')}</summary>
          {others.map(row)}
        </details>
      ) : (
        others.map(row)
      )}
      <details>
        <summary>Settings of this folder</summary>
        <Checkbox
          mt={6}
          size="xs"
          label="Each folder in it is a mod"
          checked={each}
          disabled={busy}
          onChange={({ currentTarget: { checked } }) => attempt(() => followEach(install.id, name, checked))}
        />
        <Button
          mt={6}
          size="compact-xs"
          variant="default"
          disabled={busy}
          onClick={() => attempt(() => stopFollowing(install.id, name))}
        >
          Stop following {title}
        </Button>
      </details>
    </section>
  );
}

/** Folders in which another program keeps mods up to date: what is new there, and to follow one more. */
export function FollowedPlaces({
  views,
  busy,
  open,
}: {
  views: readonly FollowedView[];
  busy: boolean;
  open: (folders: readonly FolderToRead[]) => void;
}) {
  const { install } = useFrame();
  const { failure, attempt } = useAttempt();
  const served = install.place.kind === 'served';
  const follow = (offer: ReturnType<typeof pickFolder>): void =>
    attempt(async () => {
      const what = await offer;
      if (what) await followFolder(install.id, what);
    });
  return (
    <>
      {views.length > 0 && <div className={`label ${parts.heading}`}>Kept up to date elsewhere</div>}
      {views.map((view) => (
        <FollowedPlace key={view.name} view={view} busy={busy} open={open} />
      ))}
      {(served || canPick()) && (
        <details className={listing.line}>
          <summary>Follow a folder of mods</summary>
          <p className="quiet">
            For mods that another program keeps up to date elsewhere. The folder is compared whenever you open
            Regressum; you say whether an update is taken over. Nothing is changed there.
          </p>
          {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
          {served ? (
            <ServedWay onOffer={follow} act={(name) => `Follow ${name}`} quiet />
          ) : (
            <Button size="xs" variant="default" onClick={() => follow(pickFolder())}>
              Choose the folder
            </Button>
          )}
        </details>
      )}
    </>
  );
}
