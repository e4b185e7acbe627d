import { SegmentedControl } from '@mantine/core';
import { useDeferredValue, useMemo } from 'react';
import { filterTable, type SortBy, sortTable, STATES } from '#core/survey';
import { useFrame } from '~/parts/use-frame';
import { FilterInput } from '~/parts/FilterInput';
import { counted } from '~/parts/format';
import { STATE_WORDS } from '~/parts/state-marks';
import { modNames } from '~/parts/mod-names';
import { StagePage } from '~/parts/StagePage';
import { useAddress } from '~/parts/use-address';
import type { SurveyView } from '~/queries';
import type { StoredLook } from '~/store';
import { CleanUp } from './CleanUp';
import { Difference } from './Difference';
import { Export } from './Export';
import { FileDetails } from './FileDetails';
import { FileList, type Sorting } from './FileList';
import { FolderMap } from './FolderMap';
import { LookButtons } from './looking';
import { LookWords } from './QuickLook';
import { Summary } from './Summary';
import { Things } from './Things';
import styles from './survey.module.css';

function sortingOf(word: string | undefined): Sorting {
  const [by = 'path', down] = word?.split('-') ?? [];
  return { by: ['size', 'state', 'whose'].includes(by) ? (by as SortBy) : 'path', descending: down === 'down' };
}

/** What the address says of the files to show. */
function useFilter() {
  const address = useAddress();
  const state = STATES.findIndex((name) => name === address.get('state'));
  const whose = address.get('whose');
  const words = address.get('find') ?? '';
  return {
    address,
    words,
    folder: address.get('folder') ?? '',
    state: state < 0 ? undefined : state,
    whose: whose === undefined ? undefined : Number(whose),
    sorting: sortingOf(address.get('sort')),
  };
}

/** The folder as a full check found it: depots and groups, map and list, summary or one file. */
export function Surveyed({
  view,
  look,
  past,
  canClean,
}: {
  view: SurveyView;
  look: StoredLook | undefined;
  past: readonly number[];
  canClean: boolean;
}) {
  const { address, state, folder, whose, words, sorting } = useFilter();
  const { install } = useFrame();
  const { table, at } = view;
  const { by, descending } = sorting;
  const names = useMemo(() => modNames(view.catalogue), [view.catalogue]);
  // Typing goes before filtering: a hundred thousand paths take longer than a key press may.
  const sought = useDeferredValue(words);
  const shown = useMemo(
    () => sortTable(table, filterTable(table, { state, folder, whose, words: sought }), by, descending),
    [table, state, folder, whose, sought, by, descending],
  );
  const file = address.get('file');
  const since = past.find((one) => String(one) === address.get('since'));
  return (
    <StagePage
      title="Survey"
      left={<Things view={view} names={names} address={address} />}
      middle={
        address.get('clean') !== undefined ? (
          <CleanUp since={at} />
        ) : since !== undefined ? (
          <Difference install={install.id} since={since} now={at} />
        ) : (
          <div className={styles.picture}>
            <FolderMap table={table} folder={folder} title={install.title} address={address} />
            <div className={styles.filter}>
              <FilterInput name="find" label="Filter by path" placeholder="Filter by path" />
              <SegmentedControl
                size="xs"
                aria-label="Show files that are"
                value={state === undefined ? 'all' : STATES[state]!}
                onChange={(value) => address.set({ state: value === 'all' ? undefined : value })}
                data={[
                  { value: 'all', label: 'all' },
                  ...STATES.filter((one) => one !== 'unreadable' || view.unreadable.length > 0).map((value) => ({
                    value: value as string,
                    label: STATE_WORDS[value],
                  })),
                ]}
              />
              <span className="quiet">{counted(shown.length, 'file')}</span>
              <Export install={install} view={view} shown={shown} names={names} />
            </div>
            <FileList table={table} shown={shown} names={names} sorting={sorting} address={address} />
          </div>
        )
      }
      right={
        file !== undefined && table.paths.includes(file) ? (
          <FileDetails install={install.id} path={file} view={view} names={names} />
        ) : (
          <Summary view={view} names={names} past={past} canClean={canClean} address={address} />
        )
      }
      action={
        <>
          {look && <LookWords look={look} />}
          <LookButtons />
        </>
      }
    />
  );
}
