import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import { type FetchPart as Part, fetchTotals, isPartOfFetch, wireCost } from '#core/fetch';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { useFrame } from '~/parts/use-frame';
import type { FetchView } from '~/queries';

/** Fetches some of what the target needs, and leaves the rest for later. */
export function useFetchPart(): (part: Part) => void {
  const { install } = useFrame();
  return (part) => void jobs.start('fetch', install.id, { target: install.target, part });
}

/** What lies below a folder alone, such as what carrying a mod forward needs. */
export function FetchPart({ view, busy }: { view: FetchView; busy: boolean }) {
  const [typed, setTyped] = useState('');
  const fetchPart = useFetchPart();
  const below = typed
    .trim()
    .replaceAll('\\', '/')
    .replaceAll(/^\/+|\/+$/g, '');
  const some = below === '' ? [] : view.items.filter((item) => isPartOfFetch(item, { below }));
  const { filesToFetch, written } = fetchTotals(some);
  const fits = view.free === undefined || written <= view.free;
  const cost = wireCost(some, view.frames);
  const found =
    some.length === 0 ? 'Nothing of this build lies there' : `All ${counted(some.length, 'file')} are on this disk`;
  return (
    <details>
      <summary>Fetch one folder or file</summary>
      <TextInput
        size="xs"
        label="Folder or file"
        placeholder={view.items.find(({ path }) => path.includes('/'))?.path.split('/')[0]}
        maxLength={400}
        value={typed}
        onChange={({ currentTarget: { value } }) => setTyped(value)}
        description={
          below === '' || (filesToFetch > 0 && fits) ? undefined : fits ? found : 'It does not fit on this drive'
        }
      />
      <Button
        mt={8}
        size="xs"
        variant="default"
        disabled={busy || filesToFetch === 0 || !fits}
        onClick={() => fetchPart({ below })}
      >
        {filesToFetch === 0
          ? 'Fetch only this'
          : `Fetch only ${counted(filesToFetch, 'file')}, ${bytes(cost.plain + cost.compressed)} on the wire`}
      </Button>
    </details>
  );
}
