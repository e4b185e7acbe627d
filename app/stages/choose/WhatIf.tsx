import { SegmentedControl, Select } from '@mantine/core';
import type { ModId } from '#core/builds';
import { type Mod, type Weight, WEIGHTS } from '#core/mods';
import { useFrame } from '~/frame/use-frame';
import { Section } from '~/parts/parts';
import { broadcast } from '~/store/changes';
import { updateInstall } from '~/store/installs';

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

/** What the person wants of one mod: how much it weighs, and whether it has to be at one release. Answers at once. */
export function WhatIf({ mod }: { mod: Mod }) {
  const { install } = useFrame();
  const weight = install.weights.find(([id]) => id === mod.id)?.[1];
  const pin = install.pins?.find(([id]) => id === mod.id)?.[1];
  const change = async (weights: typeof install.weights, pins: typeof install.pins): Promise<void> => {
    await updateInstall(install.id, (now) => ({ ...now, weights, ...(pins && { pins }) }));
    broadcast({ type: 'changed' });
  };
  return (
    <>
      <Section>{mod.name}</Section>
      <SegmentedControl
        size="xs"
        aria-label={`Weight of ${mod.name}`}
        value={weight ?? ''}
        onChange={(value) => void change(withEntry(install.weights, mod.id, value as Weight), install.pins)}
        data={WEIGHTS.map((value) => ({ value, label: WEIGHT_WORDS[value] }))}
      />
      <Select
        mt={6}
        size="xs"
        label="Release"
        placeholder="the best one at each build"
        clearable
        data={mod.releases.map(({ version }) => version)}
        value={pin ?? null}
        onChange={(value) => void change(install.weights, withEntry(install.pins ?? [], mod.id, value ?? undefined))}
      />
    </>
  );
}
