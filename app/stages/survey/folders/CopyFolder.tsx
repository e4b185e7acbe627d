import { Button, Checkbox, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { copyInstall, type CopyTo, type FolderOffer } from '~/commands';
import { count, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { useQuery } from '~/queries';
import type { Install } from '~/store';
import styles from './folders.module.css';
import { WhereTo } from './WhereTo';

/** Copies a folder, or moves it: copied whole, and then its files deleted here. */
export function CopyFolder({
  install,
  canMove,
  held,
}: {
  install: Install;
  /** Whether its files can be deleted from here. */
  canMove: boolean;
  held: boolean;
}) {
  const navigate = useNavigate();
  const [what, setWhat] = useState<'copy' | 'move'>('copy');
  const [title, setTitle] = useState('');
  const [withOwn, setWithOwn] = useState(true);
  const { failure, busy, attempt } = useAttempt();
  const moves = what === 'move';
  const { value: own } = useQuery('keepsakes', moves ? [install.id] : undefined, 0);
  const kept = own?.keepsakes.length ?? 0;
  const outside = install.elsewhere?.length ?? 0;
  const onServer = install.place.kind === 'served';
  const verb = moves ? 'Move' : 'Copy';
  const copy = (to: Promise<CopyTo | undefined>): void =>
    attempt(async () => {
      const where = await to;
      if (!where) return;
      const name = title.trim() || (moves ? install.title : `${install.title}, copy`);
      const id = await copyInstall(install, { title: name, to: where, withOwn: withOwn || moves, moves });
      await navigate(`/${id}/survey`);
    });
  return (
    <details className={styles.part}>
      <summary>{canMove ? 'Copy or move' : 'Copy'}</summary>
      {canMove && (
        <SegmentedControl
          size="xs"
          aria-label="Copy or move"
          data={[
            { value: 'copy', label: 'Copy' },
            { value: 'move', label: 'Move' },
          ]}
          value={what}
          onChange={(value) => setWhat(value === 'move' ? 'move' : 'copy')}
        />
      )}
      <p className="quiet">
        Into an empty folder, with its target, mods and profiles. Each file is checked as it is read and as it is
        written.
        {outside > 0 && ` Its ${counted(outside, 'folder')} outside the game’s stay the same for both.`}
      </p>
      <TextInput
        size="xs"
        label="Name"
        placeholder={moves ? install.title : `${install.title}, copy`}
        value={title}
        onChange={(event) => setTitle(event.currentTarget.value)}
      />
      {!moves && (
        <Checkbox
          mt={8}
          size="xs"
          label="With saves, settings and own content"
          checked={withOwn}
          onChange={({ currentTarget }) => setWithOwn(currentTarget.checked)}
        />
      )}
      {moves && (
        <p className="quiet">
          Once all files are there, those here are deleted; that can be taken back here until you delete what it keeps.
          Changes made so far can be taken back only here.
          {kept > 0 && ` Its ${kept === 1 ? 'keepsake comes' : `${count(kept)} keepsakes come`} along.`}
        </p>
      )}
      {moves && held ? (
        <Notice>Release the hold first: a held folder is not moved.</Notice>
      ) : (
        <WhereTo
          onOffer={(offer: Promise<FolderOffer | undefined>) => copy(offer)}
          served={onServer}
          picked={`${verb} into a folder…`}
          act={(name) => `${verb} into ${name}`}
          more={
            <Button
              mt={8}
              mr={8}
              size="xs"
              variant="default"
              loading={busy}
              onClick={() => copy(Promise.resolve('browser-disk'))}
            >
              {verb} to the browser disk
            </Button>
          }
        />
      )}
      {failure && <Notice tone="wrong">{failure}</Notice>}
    </details>
  );
}
