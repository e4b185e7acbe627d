import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { changeProfile, copyProfileOf, forgetProfileOf, profileText } from '~/commands';
import { jobs } from '~/jobs';
import { bytes, count, counted } from '~/parts/format';
import { Buttons, Notice, Pairs, Section } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import styles from '~/parts/parts.module.css';
import { saveFile } from '~/parts/save-file';
import { useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { ProfileView, SwitchView } from '~/queries';
import { SharingFields } from './SharingFields';

function Rename({ profile }: { profile: ProfileView }) {
  const { install } = useFrame();
  const [title, setTitle] = useState(profile.title);
  const name = title.trim();
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        void changeProfile(install.id, profile.id, { title: name });
      }}
    >
      <TextInput
        size="xs"
        label="Name"
        value={title}
        maxLength={80}
        onChange={(event) => setTitle(event.currentTarget.value)}
      />
      {name !== profile.title && name !== '' && (
        <Button mt={6} size="xs" variant="default" type="submit">
          Rename to {name}
        </Button>
      )}
    </form>
  );
}

/** A profile: what it is, and what a switch to it does. */
export function ProfilePanel({ profile, view }: { profile: ProfileView; view: SwitchView | undefined }) {
  const { install, held, survey } = useFrame();
  const { target, modFree, weights, counts } = profile;
  const { files, toFetch, own, nowhere, laid } = view ?? {};
  return (
    <>
      <div className="label">{counts ? 'In the folder' : 'Not in the folder'}</div>
      <h2 className={styles.big}>{profile.title}</h2>
      <Pairs
        rows={[
          { name: 'Build', value: target?.build ?? 'none chosen' },
          {
            name: 'Mods',
            value: modFree ? 'none' : `${count(target?.releases.length ?? 0)} of ${count(weights.length)}`,
          },
        ]}
      />
      {files && toFetch && own && (
        <>
          <Section>A switch to it</Section>
          <Pairs
            rows={[
              { name: 'Game and mod files touched', value: count(files.added + files.replaced + files.removed) },
              { name: 'To fetch', value: toFetch.files === 0 ? 'nothing' : bytes(toFetch.bytes) },
              { name: 'Saves and settings put in place', value: count(own.put) },
              { name: 'Saves and settings set aside', value: count(own.taken) },
            ]}
          />
          <p className="quiet">
            One change, which History can take back. What you have now is kept as a keepsake first.
            {toFetch.files > 0 &&
              ' What is fetched comes from the sources of the game: sign in under Fetch where one asks.'}
          </p>
        </>
      )}
      {!counts && held && (
        <Notice>
          The folder is held at {held.build}.{' '}
          <Link className="link" to={`/${install.id}/hold`}>
            Release the hold
          </Link>{' '}
          to switch.
        </Notice>
      )}
      {!counts && survey && !survey.fresh && <Stale>Check it first.</Stale>}
      {nowhere !== undefined && nowhere > 0 && (
        <Notice tone="wrong">{counted(nowhere, 'file')} of the build cannot be had from any source.</Notice>
      )}
      {laid === false && survey?.fresh && install.target && (
        <Notice>
          The folder is not what the profile in it wants. Coming back to that one brings {install.target.build} as
          chosen; what lies there now stays in History.
        </Notice>
      )}
      <Section>Your files in it</Section>
      <SharingFields
        sharing={profile.sharing}
        onChange={(sharing) => void changeProfile(install.id, profile.id, { sharing })}
      />
      <Section>About it</Section>
      <Rename key={profile.title} profile={profile} />
    </>
  );
}

/** Switches to a profile, copies it, hands it on, forgets it. */
export function ProfileActions({
  profile,
  view,
  busy,
  single,
}: {
  profile: ProfileView;
  view: SwitchView | undefined;
  busy: boolean;
  single: boolean;
}) {
  const { install, held, survey } = useFrame();
  const address = useAddress();
  const { failure, attempt } = useAttempt();
  const { id, title, counts } = profile;
  const cannot = busy || held !== undefined || !survey?.fresh || !view || view.nowhere > 0;
  const download = (): void =>
    attempt(async () => {
      const { name, text } = await profileText(install.id, id);
      saveFile(name, text, 'application/json');
    });
  const copy = (): void =>
    attempt(async () => address.set({ profile: await copyProfileOf(install.id, id, `${title}, copy`) }));
  const forget = (): void =>
    attempt(async () => {
      await forgetProfileOf(install.id, id);
      address.set({ profile: undefined });
    });
  return (
    <>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        {!counts && (
          <Button disabled={cannot} onClick={() => void jobs.start('switch-profile', install.id, { profile: id })}>
            Switch to {title}
            {view && view.toFetch.files > 0 && `, fetching ${bytes(view.toFetch.bytes)}`}
          </Button>
        )}
        <Button size="xs" variant="default" onClick={download}>
          Export it
        </Button>
        <Button size="xs" variant="default" onClick={copy}>
          Copy it
        </Button>
        {!counts && !single && (
          <Button size="xs" variant="default" disabled={busy} onClick={forget}>
            Delete {title}
          </Button>
        )}
      </Buttons>
    </>
  );
}
