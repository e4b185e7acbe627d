import { Button, Select } from '@mantine/core';
import { useEffect, useEffectEvent } from 'react';
import { fetchTotals, isNowhere } from '#core/fetch';
import { findNearest, keepVanillaOf } from '~/commands';
import { bytes, counted } from '~/parts/format';
import { useAddress } from '~/parts/use-address';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type CarryView, useQuery } from '~/queries';
import { madeForWords } from './carry-words';

/** The build that a release was made for: as its author says, as its files are nearest to, or as a person says. */
export function MadeFor({ view, at }: { view: CarryView; at: Attempts }) {
  const address = useAddress();
  return (
    <>
      <p className="quiet">{madeForWords(view)}</p>
      {!view.isNamed && !view.nearest && view.builds.length > 1 && <Compare view={view} at={at} />}
      {view.builds.length > 1 && (
        <Select
          size="xs"
          label="Build that it was made for"
          allowDeselect={false}
          data={[...view.builds]}
          value={view.from}
          onChange={(from) => from !== null && address.set({ from, at: undefined })}
        />
      )}
    </>
  );
}

/** Compares a release with the game's files of each build: at once where they all lie here, else when a person wants them fetched. */
function Compare({ view, at }: { view: CarryView; at: Attempts }) {
  const { install } = useFrame();
  const { mod, release, from, to } = view;
  const { value } = useQuery('carryBases', [install.id, { mod, release, from, to }], view.missing.length);
  const compare = useEffectEvent(() => at.attempt(() => findNearest(install, view)));
  const isHere = value !== undefined && value.missing.length === 0;
  useEffect(() => {
    if (isHere) compare();
  }, [isHere]);
  if (!value || isHere) return null;
  const { toFetch } = fetchTotals(value.missing);
  const isPart = value.missing.some(isNowhere);
  return (
    <p>
      <Button
        size="xs"
        variant="default"
        loading={at.busy}
        disabled={!view.canKeep && !isPart}
        onClick={() =>
          at.attempt(async () => {
            if (!isPart) await keepVanillaOf(install.id, view, true);
            await findNearest(install, view);
          })
        }
      >
        {isPart
          ? 'Compare with the builds that are here'
          : `Fetch ${bytes(toFetch)}, and compare with ${counted(view.builds.length, 'build')}`}
      </Button>
    </p>
  );
}
