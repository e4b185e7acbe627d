import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { DepotIndex } from '#core/builds';
import { errorWords } from '~/parts/failure-words';
import { Notice } from '~/parts/parts';
import { changeInstall } from '~/commands';
import type { Install } from '~/store';
import { OwnershipForm } from '~/parts/add-folder/OwnershipForm';
import styles from './folders.module.css';

/** Changes the name of a folder and what belongs in it; what was surveyed stays and is held against that. */
export function EditInstall({ install, index }: { install: Install; index: DepotIndex }) {
  const [title, setTitle] = useState(install.title);
  const [ownership, setOwnership] = useState(install.ownership);
  const [failure, setFailure] = useState<string>();
  const change = async (): Promise<void> => {
    try {
      await changeInstall(install.id, { title: title.trim() || install.title, ownership });
      setFailure(undefined);
    } catch (error) {
      const { what, next } = errorWords(error);
      setFailure(`${what} ${next}`);
    }
  };
  const same = title.trim() === install.title && JSON.stringify(ownership) === JSON.stringify(install.ownership);
  return (
    <details className={styles.part}>
      <summary>Edit name and contents</summary>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          void change();
        }}
      >
        <TextInput label="Name" value={title} onChange={(event) => setTitle(event.currentTarget.value)} />
        <OwnershipForm index={index} ownership={ownership} onChange={setOwnership} />
        {failure && <Notice tone="wrong">{failure}</Notice>}
        <Button mt={10} size="xs" variant="default" type="submit" disabled={same}>
          Save changes
        </Button>
      </form>
    </details>
  );
}
