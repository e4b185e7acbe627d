import { Button, Checkbox, Select, TextInput } from '@mantine/core';
import { useState } from 'react';
import { asBuild } from '#core/builds';
import { ALL_SHARED, type Sharing } from '#core/profiles';
import { makeProfile } from '~/commands';
import { Notice } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { ProfileView } from '~/queries';
import listing from '~/parts/listing.module.css';
import styles from './profiles.module.css';
import { SharingFields } from './SharingFields';

const OWN_SAVES: Sharing = { ...ALL_SHARED, saves: 'own' };

/** Makes a profile beside those that there are. Nothing changes in the folder by it. */
export function NewProfileForm({ profiles, open }: { profiles: readonly ProfileView[]; open: boolean }) {
  const { install, builds, index } = useFrame();
  const address = useAddress();
  const { failure, busy, attempt } = useAttempt();
  const [isOpen, setOpen] = useState(open);
  const [title, setTitle] = useState('');
  const [build, setBuild] = useState<string | null>(null);
  const [mods, setMods] = useState<'as-here' | 'none'>('as-here');
  const [sharing, setSharing] = useState(OWN_SAVES);
  const [startsEmpty, setStartsEmpty] = useState(false);
  const name = title.trim();
  const isTaken = profiles.some((one) => one.title === name);
  const branchOf = (label: string): string =>
    index.branches.flatMap((branch) => (branch.build === label ? [branch.name] : [])).join(', ');
  const make = (): void =>
    attempt(async () => {
      const wanted = { title: name, build: build === null ? undefined : asBuild(build), mods, sharing, startsEmpty };
      const id = await makeProfile(install.id, wanted);
      setTitle('');
      setBuild(null);
      setMods('as-here');
      setStartsEmpty(false);
      setOpen(false);
      address.set({ profile: id });
    });
  return (
    <details className={listing.line} open={isOpen} onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>New profile</summary>
      <form
        className={styles.form}
        onSubmit={(event) => {
          event.preventDefault();
          make();
        }}
      >
        <TextInput
          size="xs"
          label="Name"
          value={title}
          onChange={(event) => setTitle(event.currentTarget.value)}
          {...(isTaken && { error: 'There is a profile of this name' })}
        />
        <Select
          size="xs"
          label="Build"
          placeholder="As here"
          clearable
          data={builds.toReversed().map(({ label }) => ({
            value: label,
            label: [label, branchOf(label)].filter(Boolean).join(' · '),
          }))}
          value={build}
          onChange={setBuild}
        />
        <Select
          size="xs"
          label="Mods"
          allowDeselect={false}
          data={[
            { value: 'as-here', label: 'mine, as many as run there' },
            { value: 'none', label: 'none' },
          ]}
          value={mods}
          onChange={(value) => setMods(value === 'none' ? 'none' : 'as-here')}
        />
        <SharingFields sharing={sharing} onChange={setSharing} />
        <Checkbox
          size="xs"
          label="Start without files of its own"
          description="Else it begins with those that lie there when you first switch to it."
          checked={startsEmpty}
          onChange={({ currentTarget }) => setStartsEmpty(currentTarget.checked)}
        />
        {failure && <Notice tone="wrong">{failure}</Notice>}
        <Button size="xs" type="submit" disabled={busy || name === '' || name.length > 80 || isTaken}>
          Make {name || 'the profile'}
        </Button>
      </form>
    </details>
  );
}
