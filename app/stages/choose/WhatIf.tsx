import { SegmentedControl, Select } from '@mantine/core';
import { memo } from 'react';
import { type Mod, type Weight, WEIGHTS } from '#core/mods';
import { pinMod, weighMod } from '~/commands';
import { useFrame } from '~/parts/use-frame';

const WEIGHT_WORDS: Record<Weight, string> = { must: 'must have', want: 'want', spare: 'spare' };

/** What the person wants of a mod: how much it weighs, and whether it has to be at one release. Answers at once. */
export const WhatIf = memo(function WhatIf({ mod, weight }: { mod: Mod; weight: Weight | undefined }) {
  const { install } = useFrame();
  const pin = install.pins?.find(([id]) => id === mod.id)?.[1];
  return (
    <>
      <SegmentedControl
        size="xs"
        aria-label={`Weight of ${mod.name}`}
        value={weight ?? 'none'}
        onChange={(value) => {
          const weight = WEIGHTS.find((one) => one === value);
          void weighMod(install.id, mod.id, weight);
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
        onChange={(value) => void pinMod(install.id, mod.id, value ?? undefined)}
      />
    </>
  );
});
