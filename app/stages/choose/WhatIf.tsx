import { SegmentedControl, Select } from '@mantine/core';
import { memo } from 'react';
import type { ModId } from '#core/builds';
import { type Mod, type Weight, WEIGHTS } from '#core/mods';
import { useFrame } from '~/parts/use-frame';
import { broadcast, type Install, updateInstall } from '~/store';

const WEIGHT_WORDS: Record<Weight, string> = { must: 'must have', want: 'want', spare: 'spare' };

/** The list with one mod's entry changed; undefined takes it out. Its place stays. */
function withEntry<T>(
  entries: readonly (readonly [ModId, T])[],
  mod: ModId,
  value: T | undefined,
): (readonly [ModId, T])[] {
  if (value === undefined) return entries.filter(([id]) => id !== mod);
  const known = entries.some(([id]) => id === mod);
  return known ? entries.map((entry) => (entry[0] === mod ? [mod, value] : entry)) : [...entries, [mod, value]];
}

/** What the person wants of a mod: how much it weighs, and whether it has to be at one release. Answers at once. */
export const WhatIf = memo(function WhatIf({ mod, weight }: { mod: Mod; weight: Weight | undefined }) {
  const { install } = useFrame();
  const pin = install.pins?.find(([id]) => id === mod.id)?.[1];
  // Changed from what the store has at that moment: two changes in a row, or another tab's, are both kept.
  const change = async (how: (now: Install) => Partial<Install>): Promise<void> => {
    await updateInstall(install.id, (now) => ({ ...now, ...how(now) }));
    broadcast({ type: 'changed' });
  };
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label={`Weight of ${mod.name}`}
        value={weight ?? 'none'}
        onChange={(value) => {
          const weight = WEIGHTS.find((one) => one === value);
          void change(({ weights }) => ({ weights: withEntry(weights, mod.id, weight) }));
        }}
        data={[
          ...WEIGHTS.map((value) => ({ value: value as string, label: WEIGHT_WORDS[value] })),
          { value: 'none', label: 'not used' },
        ]}
      />
      <Select
        mt={6}
        size="xs"
        label="Release"
        placeholder="Best for each build"
        clearable
        data={mod.releases.map(({ version }) => version)}
        value={pin ?? null}
        onChange={(value) => void change(({ pins = [] }) => ({ pins: withEntry(pins, mod.id, value ?? undefined) }))}
      />
    </>
  );
});
