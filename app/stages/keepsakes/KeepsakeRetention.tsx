import { Button } from '@mantine/core';
import { expiredKeepsakes } from '#core/keepsakes';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { NO_LIMIT, RetentionFields, type RetentionKind } from '~/parts/RetentionFields';
import { useFrame } from '~/parts/use-frame';
import type { KeepsakesView } from '~/queries';
import listing from '~/parts/listing.module.css';

const KINDS: readonly RetentionKind[] = [
  {
    key: 'keepsakes',
    label: 'How many',
    data: [NO_LIMIT, ...[5, 10, 20, 50].map((n) => ({ value: String(n), label: `the newest ${n}` }))],
  },
  {
    key: 'keepsakeDays',
    label: 'How old',
    data: [NO_LIMIT, ...[30, 90, 365].map((n) => ({ value: String(n), label: `${n} days` }))],
  },
  {
    key: 'keepsakeBytes',
    label: 'How large together',
    data: [NO_LIMIT, ...[1, 5, 20].map((n) => ({ value: String(n * 1e9), label: `${n} GB` }))],
  },
];

/** How many keepsakes stay. Those past their time are named with their bytes, and deleted only when a person says so. */
export function KeepsakeRetention({ view, now, busy }: { view: KeepsakesView; now: number; busy: boolean }) {
  const { install } = useFrame();
  const rules = install.retention ?? {};
  const needed = new Set(view.needed.keys());
  const past = expiredKeepsakes(view.keepsakes, rules, { now, needed });
  const size = past.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <div className={listing.line}>
      <span className="label">How long they stay</span>
      <RetentionFields install={install} kinds={KINDS} />
      <p className="quiet">
        {past.length === 0
          ? 'None is past its time. None is ever deleted by itself, and the newest always stays.'
          : `${counted(past.length, 'keepsake')} past their time, up to ${bytes(size)}: files that others have too stay.`}
      </p>
      {past.length > 0 && (
        <Button
          size="xs"
          variant="default"
          disabled={busy}
          onClick={() => void jobs.start('drop-keepsakes', install.id, { keepsakes: past.map(({ id }) => id) })}
        >
          Delete {counted(past.length, 'keepsake')}
        </Button>
      )}
    </div>
  );
}
