import { NativeSelect, TextInput } from '@mantine/core';
import { useState } from 'react';
import { headBuild } from '#core/builds';
import type { Until } from '#core/mend';
import type { Mod } from '#core/mods';
import type { BenchWish } from '~/commands';
import { FormButtons } from '~/parts/FormButtons';
import { useFrame } from '~/parts/use-frame';

const KINDS: readonly (readonly [Until['kind'] | 'none', string])[] = [
  ['runs', 'a release of it runs here'],
  ['release', 'it has a newer release'],
  ['patch', 'the next build is out'],
  ['build', 'the folder is at a build'],
  ['day', 'a day'],
  ['none', 'I take it back in myself'],
];

/** Asks why a mod is taken out of the folder, and until when or what. */
export function BenchForm({
  mod,
  runs,
  busy,
  onBench,
  onClose,
}: {
  mod: Mod;
  /** Whether a release of it runs, by the evidence that counts: to wait for one makes no sense then. */
  runs: boolean;
  busy: boolean;
  onBench: (wish: BenchWish) => void;
  onClose: () => void;
}) {
  const { index } = useFrame();
  const builds = index.builds.map(({ label }) => label);
  const [kind, setKind] = useState<Until['kind'] | 'none'>(runs ? 'release' : 'runs');
  const [reason, setReason] = useState('');
  const [day, setDay] = useState('');
  const [build, setBuild] = useState<string>(builds.at(-1) ?? '');
  const untilOf = (): Until | undefined => {
    switch (kind) {
      case 'day':
        return { kind, day };
      case 'build':
        return { kind, build: builds.find((label) => label === build)! };
      case 'patch': {
        const after = headBuild(index);
        return { kind, ...(after !== undefined && { after }) };
      }
      case 'release': {
        const after = mod.releases.at(-1)?.version;
        return { kind, ...(after !== undefined && { after }) };
      }
      case 'runs':
      case 'group':
        return { kind };
      case 'none':
        return undefined;
    }
  };
  return (
    <form
      aria-label={`Take ${mod.name} out`}
      onSubmit={(event) => {
        event.preventDefault();
        onBench({ reason: reason.trim(), until: untilOf() });
      }}
    >
      <TextInput
        size="xs"
        label="Why"
        maxLength={400}
        autoFocus
        value={reason}
        onChange={({ currentTarget: { value } }) => setReason(value)}
      />
      <NativeSelect
        mt={6}
        size="xs"
        label="Until"
        data={KINDS.filter(([one]) => (one !== 'build' || builds.length > 0) && (one !== 'runs' || !runs)).map(
          ([value, label]) => ({ value, label }),
        )}
        value={kind}
        onChange={({ currentTarget: { value } }) => setKind(KINDS.find(([one]) => one === value)![0])}
      />
      {kind === 'day' && (
        <TextInput
          mt={6}
          size="xs"
          type="date"
          label="Day"
          required
          value={day}
          onChange={({ currentTarget: { value } }) => setDay(value)}
        />
      )}
      {kind === 'build' && (
        <NativeSelect
          mt={6}
          size="xs"
          label="Build"
          data={[...builds]}
          value={build}
          onChange={({ currentTarget: { value } }) => setBuild(value)}
        />
      )}
      <p className="quiet">Its settings stay where they are, and its files are kept on the shelf.</p>
      <FormButtons submit="Take it out" busy={busy} onCancel={onClose} />
    </form>
  );
}
