import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import { jobs } from '~/jobs';
import { Notice } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { Install } from '~/store';
import listing from '~/parts/listing.module.css';

/** Takes saves, settings and content of another folder of the game in as a keepsake: so that both may have the same. */
export function BringOwn({ others, busy }: { others: readonly Pick<Install, 'id' | 'title'>[]; busy: boolean }) {
  const { install } = useFrame();
  const address = useAddress();
  const { failure, attempt } = useAttempt();
  const [from, setFrom] = useState<string>();
  const chosen = others.find(({ id }) => id === from) ?? others[0];
  if (!chosen) return null;
  const take = (): void =>
    attempt(async () => {
      const id = await jobs.start('bring-own', install.id, { from: chosen.id });
      await jobs.ended(id);
      address.set({ keepsake: id });
    });
  return (
    <div className={listing.line}>
      {others.length > 1 && (
        <Select
          size="xs"
          label="Another folder of the game"
          data={others.map(({ id, title }) => ({ value: id, label: title }))}
          value={chosen.id}
          allowDeselect={false}
          onChange={(value) => setFrom(value ?? undefined)}
        />
      )}
      <Button size="xs" variant="default" disabled={busy} onClick={take}>
        Compare with {chosen.title}
      </Button>
      {failure && <Notice tone="wrong">{failure}</Notice>}
    </div>
  );
}
