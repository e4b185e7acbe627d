import { Button } from '@mantine/core';
import { jobs } from '~/jobs';
import type { HoldRecord } from '~/store';

/** Has the storefront's record say again what the hold has it say, and locks it where that can be done from here. */
export function LockAgain({ hold, busy }: { hold: HoldRecord; busy: boolean }) {
  return (
    <Button
      size="compact-xs"
      disabled={busy}
      onClick={() => void jobs.start('hold', hold.install, { sheet: hold.sheet })}
    >
      Write and lock the record again
    </Button>
  );
}
