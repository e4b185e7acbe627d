import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import {
  type AlikeName,
  type ColumnMap,
  type DecidedNames,
  type ModField,
  type ModTable,
  nameKey,
  NEEDED_FIELDS,
} from '#core/tables';
import { useFrame } from '~/parts/use-frame';
import { errorWords } from '~/parts/failure-words';
import { count, counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import { type Given, query, type TableReading } from '~/queries';
import { declareBuilds, takeOverTable } from '~/commands';
import { FIELD_CHOICES, FIELD_WORDS, faultWords } from './fault-words';
import styles from './mods.module.css';

const MOST_FAULTS = 12;

/** A field has one column: giving it to another takes it from the first. */
function withColumn(columns: ColumnMap, field: ModField | undefined, place: number): ColumnMap {
  const others = Object.entries(columns).filter(([other, at]) => at !== place && other !== field);
  return { ...Object.fromEntries(others), ...(field && { [field]: place }) };
}

/** A table before it is taken over: what its columns are, what is wrong with which cell, and what would come of it. */
export function TablePreview({
  given,
  reading: first,
  onClose,
}: {
  given: Given;
  reading: TableReading;
  onClose: (taken: string | undefined) => void;
}) {
  const { install } = useFrame();
  const [reading, setReading] = useState(first);
  const [decided, setDecided] = useState<DecidedNames>(new Map());
  const [failure, setFailure] = useState<string>();
  const { name, columns, table } = reading;
  const missing = NEEDED_FIELDS.filter((field) => columns[field] === undefined);
  const releases = table.mods.reduce((sum, mod) => sum + mod.releases.length, 0);
  const fits = missing.length === 0 && table.faultCount === 0 && table.alike.length === 0;

  async function readBy(nowColumns: ColumnMap, nowDecided: DecidedNames): Promise<void> {
    // Seen at once: the table behind it follows.
    setReading((now) => ({ ...now, columns: nowColumns }));
    setDecided(nowDecided);
    try {
      const next = await query('readTable', install.id, given, name, nowColumns, nowDecided);
      setReading((now) => (now.columns === nowColumns ? { ...next, columns: nowColumns } : now));
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  }

  async function takeOver(goodOnly = false): Promise<void> {
    try {
      const taken = goodOnly
        ? (await query('readTable', install.id, given, name, columns, decided, true)).table
        : table;
      await takeOverTable(install.id, taken, name);
      const some = taken.mods.reduce((sum, mod) => sum + mod.releases.length, 0);
      onClose(`${counted(taken.mods.length, 'mod')} with ${counted(some, 'release')} imported from ${name}.`);
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  }

  async function declare(): Promise<void> {
    try {
      await declareBuilds(install.game, table.unknownBuilds);
      await readBy(columns, decided);
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  }

  return (
    <div className={styles.preview}>
      <h2 className={styles.title}>{name}</h2>
      <p className="quiet">
        One release per row, from old to new. Map the columns; nothing is imported until you say so.
      </p>
      {missing.length > 0 && (
        <Notice>Columns still to map: {missing.map((field) => FIELD_WORDS[field]).join(', ')}.</Notice>
      )}
      {missing.length === 0 && <Faults read={table} />}
      {missing.length === 0 && (
        <Alike
          alike={table.alike}
          onDecide={(alike, how) => void readBy(columns, new Map(decided).set(nameKey(alike), how))}
        />
      )}
      {missing.length === 0 && table.unknownBuilds.length > 0 && (
        <Notice>
          No source tells of {counted(table.unknownBuilds.length, 'build')}:{' '}
          {table.unknownBuilds.slice(0, MOST_FAULTS).join(', ')}
          {table.unknownBuilds.length > MOST_FAULTS && ' and more'}. Declared, they stand on the build line and can be
          chosen; their files stay unknown until they are recorded.
          <Buttons>
            <Button size="xs" variant="default" onClick={() => void declare()}>
              Declare {counted(table.unknownBuilds.length, 'build')}
            </Button>
          </Buttons>
        </Notice>
      )}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        <Button disabled={!fits} onClick={() => void takeOver()}>
          Import {counted(table.mods.length, 'mod')} with {counted(releases, 'release')}
        </Button>
        {missing.length === 0 && table.badLines.size > 0 && table.badLines.size < reading.rowCount && (
          <Button variant="default" disabled={table.alike.length > 0} onClick={() => void takeOver(true)}>
            Import the good rows only
          </Button>
        )}
        <Button variant="default" onClick={() => onClose(undefined)}>
          Cancel
        </Button>
      </Buttons>
      <Rows
        reading={reading}
        onColumns={(next) => void readBy(next, decided)}
        faults={missing.length > 0 ? [] : table.faults}
      />
    </div>
  );
}

/** Names that would become one mod by their spelling: the person says whether they are one. */
function Alike({
  alike,
  onDecide,
}: {
  alike: readonly AlikeName[];
  onDecide: (name: string, how: 'same' | 'apart') => void;
}) {
  return alike.slice(0, MOST_FAULTS).map(({ line, name, other }) => (
    <Notice key={name}>
      Line {line}: are “{name}” and “{other}” the same mod?
      <Buttons>
        <Button size="xs" variant="default" onClick={() => onDecide(name, 'same')}>
          Same mod
        </Button>
        <Button size="xs" variant="default" onClick={() => onDecide(name, 'apart')}>
          Two mods
        </Button>
      </Buttons>
    </Notice>
  ));
}

function Faults({ read: { faults, faultCount } }: { read: ModTable }) {
  if (faults.length === 0) return null;
  return (
    <Notice tone="wrong">
      {counted(faultCount, 'cell does', 'cells do')} not fit:
      <ul className={styles.faults}>
        {faults.slice(0, MOST_FAULTS).map((fault) => (
          <li key={`${fault.line} ${fault.field} ${fault.cell}`}>
            Line {fault.line}: {faultWords(fault)}
          </li>
        ))}
        {faultCount > MOST_FAULTS && <li>and {count(faultCount - MOST_FAULTS)} more</li>}
      </ul>
    </Notice>
  );
}

function Rows({
  reading: { name, heads, columns, rows, rowCount },
  onColumns,
  faults,
}: {
  reading: TableReading;
  onColumns: (columns: ColumnMap) => void;
  faults: ModTable['faults'];
}) {
  const fieldAt = new Map(Object.entries(columns).map(([field, place]) => [place, field as ModField]));
  const bad = new Set(faults.map(({ line, field }) => `${line} ${columns[field]}`));
  return (
    <div className={styles.rows} role="region" aria-label={`Rows of ${name}`} tabIndex={0}>
      <table>
        <thead>
          <tr>
            <th scope="col">Line</th>
            {heads.map((head, place) => (
              <th key={place} scope="col">
                <div>{head}</div>
                <Select
                  size="xs"
                  aria-label={`Field for the column ${head}`}
                  placeholder="Ignored"
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
          {rows.map(({ line, cells }) => (
            <tr key={line}>
              <td className="mono quiet">{line}</td>
              {heads.map((_, place) => (
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
      {rowCount > rows.length && <p className="quiet">and {count(rowCount - rows.length)} more rows</p>}
    </div>
  );
}
