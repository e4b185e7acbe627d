import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import { type ColumnMap, guessColumns, type ModField, type ModTable, NEEDED_FIELDS, readModTable } from '#core/tables';
import { useFrame } from '~/frame/use-frame';
import { errorWords } from '~/parts/failure-words';
import { count, counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import type { ChooseView } from '~/reckoning/views';
import { takeOverTable } from '~/services/own-mods';
import { FIELD_CHOICES, FIELD_WORDS, faultWords } from './fault-words';
import styles from './mods.module.css';
import type { RawTable } from './read-table';

const MOST_ROWS = 60;
const MOST_FAULTS = 12;

/** A field has one column: giving it to another takes it from the first. */
function withColumn(columns: ColumnMap, field: ModField | undefined, place: number): ColumnMap {
  const others = Object.entries(columns).filter(([other, at]) => at !== place && other !== field);
  return { ...Object.fromEntries(others), ...(field && { [field]: place }) };
}

/** A table before it is taken over: what its columns are, what is wrong with which cell, and what would come of it. */
export function TablePreview({
  table,
  view,
  onClose,
}: {
  table: RawTable;
  view: ChooseView;
  onClose: (taken: string | undefined) => void;
}) {
  const { install, index } = useFrame();
  const [columns, setColumns] = useState<ColumnMap>(() => guessColumns(table.heads));
  const [failure, setFailure] = useState<string>();
  const read = readModTable(table.rows, columns, {
    catalogue: view.catalogue,
    builds: index.builds,
  });
  const missing = NEEDED_FIELDS.filter((field) => columns[field] === undefined);
  const releases = read.mods.reduce((sum, mod) => sum + mod.releases.length, 0);
  const fits = missing.length === 0 && read.faults.length === 0;

  async function takeOver(): Promise<void> {
    try {
      await takeOverTable(install.id, read, table.name);
      onClose(
        `${counted(read.mods.length, 'mod')} with ${counted(releases, 'release')} taken over from ${table.name}.`,
      );
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  }

  return (
    <div className={styles.preview}>
      <h2 className={styles.title}>{table.name}</h2>
      <p className="quiet">
        One release a row, the releases of a mod from old to new. Say what the columns are; nothing is taken over before
        every cell fits.
      </p>
      {missing.length > 0 && (
        <Notice>Still without a column: {missing.map((field) => FIELD_WORDS[field]).join(', ')}.</Notice>
      )}
      {missing.length === 0 && <Faults read={read} />}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button disabled={!fits} onClick={() => void takeOver()}>
          Take over {counted(read.mods.length, 'mod')} with {counted(releases, 'release')}
        </Button>
        <Button variant="default" onClick={() => onClose(undefined)}>
          Leave it
        </Button>
      </Buttons>
      <Rows table={table} columns={columns} onColumns={setColumns} faults={missing.length > 0 ? [] : read.faults} />
    </div>
  );
}

function Faults({ read: { faults } }: { read: ModTable }) {
  if (faults.length === 0) return null;
  return (
    <Notice tone="wrong">
      {counted(faults.length, 'cell does', 'cells do')} not fit:
      <ul className={styles.faults}>
        {faults.slice(0, MOST_FAULTS).map((fault) => (
          <li key={`${fault.line} ${fault.field} ${fault.cell}`}>
            Line {fault.line}: {faultWords(fault)}
          </li>
        ))}
        {faults.length > MOST_FAULTS && <li>and {count(faults.length - MOST_FAULTS)} more</li>}
      </ul>
    </Notice>
  );
}

function Rows({
  table,
  columns,
  onColumns,
  faults,
}: {
  table: RawTable;
  columns: ColumnMap;
  onColumns: (columns: ColumnMap) => void;
  faults: ModTable['faults'];
}) {
  const fieldAt = new Map(Object.entries(columns).map(([field, place]) => [place, field as ModField]));
  const bad = new Set(faults.map(({ line, field }) => `${line} ${columns[field]}`));
  return (
    <div className={styles.rows} role="region" aria-label={`Rows of ${table.name}`} tabIndex={0}>
      <table>
        <thead>
          <tr>
            <th scope="col">Line</th>
            {table.heads.map((head, place) => (
              <th key={place} scope="col">
                <div>{head}</div>
                <Select
                  size="xs"
                  aria-label={`What the column ${head} is`}
                  placeholder="left out"
                  clearable
                  data={FIELD_CHOICES}
                  value={fieldAt.get(place) ?? null}
                  onChange={(value) => {
                    const field = FIELD_CHOICES.find((choice) => choice.value === value)?.value as ModField | undefined;
                    onColumns(withColumn(columns, field, place));
                  }}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.slice(0, MOST_ROWS).map(({ line, cells }) => (
            <tr key={line}>
              <td className="mono quiet">{line}</td>
              {table.heads.map((_, place) => (
                <td
                  key={place}
                  data-bad={bad.has(`${line} ${place}`) || undefined}
                  data-out={!fieldAt.has(place) || undefined}
                >
                  {cells[place]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {table.rows.length > MOST_ROWS && <p className="quiet">and {count(table.rows.length - MOST_ROWS)} more rows</p>}
    </div>
  );
}
