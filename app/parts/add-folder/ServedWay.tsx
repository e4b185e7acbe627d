import { Button, Select, TextInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { ServedToken } from '~/parts/ServedToken';
import { servedRoots, servedToken } from '~/remote';
import type { FolderOffer } from '~/commands';

/** Chooses a folder below one of the roots that this machine serves. */
export function ServedWay({
  onOffer,
  act = (name) => `Add ${name}`,
  quiet = false,
}: {
  onOffer: (offer: Promise<FolderOffer>) => void;
  /** What the button says of a folder. */
  act?: (name: string) => string;
  /** Whether something else is what one came for. */
  quiet?: boolean;
}) {
  const [roots, setRoots] = useState<readonly string[]>([]);
  const [root, setRoot] = useState<string>();
  const [folder, setFolder] = useState('');
  useEffect(() => {
    // The address that the start of the server printed has told the token already.
    if (servedToken() !== '') void servedRoots(servedToken()).then(setRoots, () => undefined);
  }, []);
  const chosen = root ?? roots[0];
  if (chosen === undefined) return <ServedToken onRoots={setRoots} label="Show local folders" />;
  const below = folder.replaceAll('\\', '/').replace(/^\/+|\/+$/g, '');
  const name = below.split('/').at(-1) || chosen.split(/[/\\]/).at(-1)!;
  return (
    <>
      <Select
        label="Local folder"
        data={[...roots]}
        value={chosen}
        allowDeselect={false}
        onChange={(value) => setRoot(value ?? undefined)}
      />
      <TextInput
        mt={8}
        label="Subfolder"
        placeholder="Leave empty for the folder itself"
        value={folder}
        onChange={(event) => setFolder(event.currentTarget.value)}
      />
      <Button
        mt={8}
        mr={8}
        {...(quiet && { size: 'xs', variant: 'default' })}
        onClick={() => onOffer(Promise.resolve({ kind: 'served', name, root: chosen, folder: below }))}
      >
        {act(name)}
      </Button>
    </>
  );
}
