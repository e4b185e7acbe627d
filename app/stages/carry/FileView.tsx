import { MultiSelect, Select } from '@mantine/core';
import { useState } from 'react';
import type { Difference } from '#core/merge';
import { decideCarried } from '~/commands';
import { count } from '~/parts/format';
import { Empty } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAddress } from '~/parts/use-address';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { CarryView } from '~/queries';
import type { MergedFile } from '~/workers';
import styles from './carry.module.css';
import { Decide } from './Decide';
import { Differences } from './Differences';

const SHOWN = {
  all: 'All that differs',
  conflict: 'Both changed it',
  ours: 'The mod changed it',
  theirs: 'The patch changed it',
};
type Shown = keyof typeof SHOWN;

interface FileProps {
  readonly view: CarryView;
  readonly file: CarryView['files'][number] | undefined;
  readonly own: MergedFile | undefined;
  readonly at: Attempts;
}

const KIND_WORDS: Record<NonNullable<MergedFile['kind']>, string> = {
  ...{
    table: 'a table',
    json: 'JSON',
    xml: 'XML',
    ini: 'names and values',
    records: 'a table of records',
    text: 'text',
  },
};

/** What is told of a file that has no places to look at. */
function NoPlaces({ view, file, own }: FileProps) {
  if (!file) return <p className={`quiet ${styles.group}`}>Select a file.</p>;
  const told: Record<CarryView['files'][number]['state'], string> = {
    unchanged: `${view.to} has the game’s file as it was at ${view.from}: the mod’s file is kept as it is.`,
    gone: `${view.to} has no such file any more. The mod’s file is kept, and may do nothing there.`,
    own: 'This file is made from no file of the game: it is kept as it is.',
    changed: own ? 'Nothing that can be told differs.' : 'Its three versions are not compared yet.',
  };
  const isUnknown = own !== undefined && own.kind === undefined;
  return (
    <Empty title={file.path}>
      {isUnknown
        ? 'No rule of the game explains these bytes, so they are never guessed: the mod’s file is kept as it is, and may break.'
        : told[file.state]}
    </Empty>
  );
}

/** A file of a mod, place by place. */
export function FileView(props: FileProps) {
  const { view, file, own, at } = props;
  const address = useAddress();
  if (!file || !own || own.kind === undefined || own.differences.length === 0) return <NoPlaces {...props} />;
  const shown = (Object.keys(SHOWN) as Shown[]).find((one) => one === address.get('only')) ?? 'all';
  const all = own.differences.map((difference, place) => ({ difference, place }));
  const rows = all.filter(({ difference: { by } }) => shown === 'all' || by === shown);
  const asked = address.get('at');
  const selected: Difference | undefined = asked === undefined ? undefined : own.differences[Number(asked)];
  const firstOpen = own.differences.find(({ by, decision }) => by === 'conflict' && decision === undefined);
  const current = selected ?? firstOpen;
  const total = own.count.clean + own.count.decided + own.count.open;
  return (
    <div className={styles.middle}>
      <div className={parts.headRow}>
        <h2>
          <span className="mono">{file.path}</span>{' '}
          <span className="quiet">
            as {KIND_WORDS[own.kind]}
            {own.key && !own.columns && `, by ${own.key.join(' and ')}`}
          </span>
        </h2>
        <Select
          size="xs"
          aria-label="Which places are shown"
          allowDeselect={false}
          data={Object.entries(SHOWN).map(([value, label]) => ({ value, label }))}
          value={shown}
          onChange={(only) => address.set({ only: only === 'all' ? undefined : (only ?? undefined), at: undefined })}
        />
      </div>
      {own.columns && <KeyColumns key={file.path} view={view} file={file} own={own} columns={own.columns} at={at} />}
      <Differences view={view} rows={rows} selected={current && own.differences.indexOf(current)} />
      {total > all.length && (
        <p className={`quiet ${styles.group}`}>
          {count(all.length)} of {count(total)} are shown, those that both changed first.
        </p>
      )}
      {current?.by === 'conflict' && (
        <Decide
          key={JSON.stringify([file.path, current.path])}
          view={view}
          file={file.path}
          difference={current}
          at={at}
        />
      )}
    </div>
  );
}

/** The columns of a table that tell its rows apart: they are found, and a person may name others. */
function KeyColumns({
  view,
  file,
  own,
  columns,
  at,
}: {
  view: CarryView;
  file: CarryView['files'][number];
  own: MergedFile;
  columns: readonly string[];
  at: Attempts;
}) {
  const { install } = useFrame();
  const { key = [] } = own;
  const named = file.key ?? key;
  // Columns are ticked faster than their table is merged: what is ticked counts until the field is left.
  const [ticked, setTicked] = useState<string[]>();
  const isOther = file.key !== undefined && file.key.join('\n') !== key.join('\n');
  return (
    <MultiSelect
      className={styles.keys}
      size="xs"
      label="Rows are told apart by"
      placeholder={named.length === 0 ? 'Nothing tells them apart' : undefined}
      data={[...columns]}
      value={ticked ?? [...named]}
      error={
        isOther &&
        `Two rows are alike in ${named.join(' and ')}: ${key.length === 0 ? 'lines are compared' : `${key.join(' and ')} counts`}.`
      }
      onBlur={() => setTicked(undefined)}
      onChange={(chosen) => {
        setTicked(chosen);
        at.attempt(() =>
          decideCarried(install.id, view.mod, ({ keys = [] }) => {
            const others = keys.filter((one) => one.file !== file.path);
            return { keys: chosen.length === 0 ? others : [...others, { file: file.path, columns: chosen }] };
          }),
        );
      }}
    />
  );
}
