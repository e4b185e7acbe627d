import type { BuildLabel } from '#core/builds';
import { Select } from '@mantine/core';
import { memo } from 'react';
import { type BuildChoice, choiceDifferences } from '#core/choose';
import { failureToWire } from '#core/failure';
import { useFrame } from '~/parts/use-frame';
import { modNames } from '~/parts/mod-names';
import { bytes, count, counted } from '~/parts/format';
import { FailureNotice, Pairs, Section } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { type ChooseView, useQuery } from '~/queries';
import { rolledBack } from './board-rows';
import styles from './choose.module.css';

const MOST_SHOWN = 12;

/** The build that is looked at beside another one: figures, files, and mod by mod. */
export const Compare = memo(function Compare({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const address = useAddress();
  const { install } = useFrame();
  const there = view.choices.find(({ build }) => build === address.get('with') && build !== choice.build);
  const asked = there && ([install.id, there.build, choice.build] as [string, BuildLabel, BuildLabel]);
  const { value: files, failure } = useQuery('twoBuilds', asked, view.level);
  return (
    <>
      <Select
        mt={12}
        size="xs"
        label={`Compare ${choice.build} with`}
        placeholder="Select a build"
        clearable
        data={view.choices.map(({ build }) => build as string).filter((build) => build !== choice.build)}
        value={there?.build ?? null}
        onChange={(value) => address.set({ with: value ?? undefined, differs: undefined })}
      />
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      {there && <SideBySide view={view} here={choice} there={there} />}
      {there && files && (
        <p className="quiet">
          From {there.build} to {choice.build}: {counted(files.changed, 'file')} changed, {count(files.fresh)} new,{' '}
          {count(files.gone)} gone, {count(files.moved)} moved; {bytes(files.bytes)} of new content.
        </p>
      )}
    </>
  );
});

function SideBySide({ view, here, there }: { view: ChooseView; here: BuildChoice; there: BuildChoice }) {
  const names = modNames(view.catalogue);
  const toFetch = ({ build }: BuildChoice): string => {
    const size = view.toFetch.get(build);
    return size === undefined ? '–' : bytes(size);
  };
  const differences = choiceDifferences(here, there);
  const rows: readonly [string, (choice: BuildChoice) => string][] = [
    ['run', ({ running }) => count(running)],
    ['lost', ({ lost }) => count(lost.size)],
    ['must-haves lost', ({ mustLost }) => count(mustLost)],
    ['roll back', (choice) => count(rolledBack(view, choice).length)],
    ['files to fetch', toFetch],
  ];
  return (
    <>
      <table className={styles.side}>
        <caption className="unseen">
          {here.build} beside {there.build}
        </caption>
        <thead>
          <tr>
            <td />
            <th scope="col">{here.build}</th>
            <th scope="col">{there.build}</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([title, of]) => (
            <tr key={title}>
              <th scope="row">{title}</th>
              <td>{of(here)}</td>
              <td>{of(there)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Section>{counted(differences.length, 'mod differs', 'mods differ')}</Section>
      <Pairs
        rows={differences.slice(0, MOST_SHOWN).map((one) => ({
          name: names.get(one.mod) ?? one.mod,
          value: `${one.here ?? 'lost'} · ${one.there ?? 'lost'}`,
        }))}
      />
      {differences.length > MOST_SHOWN && (
        <p className="quiet">
          and {count(differences.length - MOST_SHOWN)} more. Use “Only differences” on the board to see them.
        </p>
      )}
    </>
  );
}
