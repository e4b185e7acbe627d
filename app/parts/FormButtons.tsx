import { Button } from '@mantine/core';
import { Buttons } from './parts';

/** Ends a small form within a panel: what it does, and the way out of it. */
export function FormButtons({ submit, busy, onCancel }: { submit: string; busy: boolean; onCancel: () => void }) {
  return (
    <Buttons>
      <Button type="submit" size="xs" loading={busy}>
        {submit}
      </Button>
      <Button size="xs" variant="default" onClick={onCancel}>
        Cancel
      </Button>
    </Buttons>
  );
}
