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
      {view.asksForBuild && <Compare view={view} at={at} />}
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

/** What is asked about the builds that a release may be made for; undefined where nothing is asked. */
export const basesWish = (
  install: string,
  { mod, release, from, to, asksForBuild }: CarryView,
): [string, Pick<CarryView, 'mod' | 'release' | 'from' | 'to'>] | undefined =>
  asksForBuild ? [install, { mod, release, from, to }] : undefined;

/** Compares a release with the game's files of each build: at once where they lie here, else when a person wants the others fetched. */
function Compare({ view, at }: { view: CarryView; at: Attempts }) {
  const { install } = useFrame();
  const { value } = useQuery('carryBases', basesWish(install.id, view), view.missing.length);
  const compare = useEffectEvent(() => at.attempt(() => findNearest(install, view)));
  const toCome = value?.missing.filter((item) => !isNowhere(item)) ?? [];
  const isHere = value !== undefined && toCome.length === 0;
  useEffect(() => {
    if (isHere) compare();
  }, [isHere]);
  // What the page asks to be fetched first has these in it.
  if (!value || isHere || view.missing.length > 0 || !view.canKeep) return null;
  return (
    <p>
      <Button
        size="xs"
        variant="default"
        loading={at.busy}
        onClick={() =>
          at.attempt(async () => {
            await keepVanillaOf(install.id, view, true);
            await findNearest(install, view);
          })
        }
      >
        Fetch {bytes(fetchTotals(toCome).toFetch)}, and compare with {counted(view.builds.length, 'build')}
      </Button>
    </p>
  );
}
