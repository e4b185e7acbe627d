import { Button, Checkbox } from '@mantine/core';
import { useState } from 'react';
import { type ReadListed, ROLE_WORDS } from '#core/tables';
import { takeOverList } from '~/commands';
import { count, counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import styles from './mods.module.css';

const MOST_ROWS = 300;

/** A list of mods that somebody published: what of it is known here, and taking it over. */
export function ListPreview({
  name,
  listed,
  onClose,
}: {
  name: string;
  listed: readonly ReadListed[];
  onClose: (taken: string | undefined) => void;
}) {
  const { install } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const [keeps, setKeeps] = useState(true);
  const known = listed.filter(({ mod }) => mod !== undefined);
  const unknown = listed.length - known.length;
  const wanted = known.filter(({ role }) => role !== 'needed').length;
  const otherRelease = known.filter(({ isKnown }) => !isKnown).length;
  return (
    <div className={styles.preview}>
      <h2 className={styles.title}>{name}</h2>
      <p className="quiet">
        A list of {counted(listed.length, 'mod')}, of which {count(wanted)} are added to your mods with their roles.
        Those that others need come with them. Nothing changes in the folder.
      </p>
      {unknown > 0 && <Notice>{counted(unknown, 'mod')} of it is known to no source here and is left out.</Notice>}
      {otherRelease > 0 && (
        <Notice>Of {counted(otherRelease, 'mod')} the release is not known: another one is chosen.</Notice>
      )}
      {failure !== undefined && <Notice tone="wrong">{failure}</Notice>}
      <Checkbox
        checked={keeps}
        onChange={({ currentTarget: { checked } }) => setKeeps(checked)}
        label="Keep to just these releases, in this order"
      />
      <Buttons>
        <Button
          mt={8}
          disabled={wanted === 0}
          loading={busy}
          onClick={() =>
            attempt(async () => {
              await takeOverList(install.id, listed, keeps);
              onClose(`${counted(wanted, 'mod')} of ${name} added to your mods.`);
            })
          }
        >
          Add {counted(wanted, 'mod')}
        </Button>
        <Button mt={8} variant="default" onClick={() => onClose(undefined)}>
          Cancel
        </Button>
      </Buttons>
      <table className={parts.table}>
        <thead>
          <tr>
            <th>Mod</th>
            <th>Release</th>
            <th>Build</th>
            <th>Role</th>
            <th>Source</th>
            <th>Here</th>
          </tr>
        </thead>
        <tbody>
          {listed.slice(0, MOST_ROWS).map(({ line, name: mod, release, build, role, source, mod: id, isKnown }) => (
            <tr key={line}>
              <td>{mod}</td>
              <td className="mono">{release}</td>
              <td className="mono">{build}</td>
              <td>{ROLE_WORDS[role]}</td>
              <td>{source}</td>
              <td>{id === undefined ? 'not known' : isKnown ? 'known' : 'other releases'}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {listed.length > MOST_ROWS && <p className="quiet">and {count(listed.length - MOST_ROWS)} more.</p>}
    </div>
  );
}
