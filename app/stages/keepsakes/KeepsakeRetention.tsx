import { Button, NativeSelect } from '@mantine/core';
import { expiredKeepsakes, type KeepsakeRules } from '#core/keepsakes';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { useFrame } from '~/parts/use-frame';
import type { KeepsakesView } from '~/queries';
import { broadcast, updateInstall } from '~/store';
import styles from './keepsakes.module.css';

const NO_LIMIT = { value: '', label: 'without limit' };

const KINDS: readonly {
  readonly key: keyof KeepsakeRules;
  readonly label: string;
  readonly data: readonly { readonly value: string; readonly label: string }[];
}[] = [
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

async function setRule(install: string, key: keyof KeepsakeRules, value: string): Promise<void> {
  await updateInstall(install, ({ retention = {}, ...now }) => {
    const { [key]: _, ...rest } = retention;
    return { ...now, retention: value === '' ? rest : { ...rest, [key]: Number(value) } };
  });
  broadcast({ type: 'changed' });
}

/** How many keepsakes stay. Those past their time are named with their bytes, and deleted only when a person says so. */
export function KeepsakeRetention({ view, now, busy }: { view: KeepsakesView; now: number; busy: boolean }) {
  const { install } = useFrame();
  const rules = install.retention ?? {};
  const needed = new Set(view.needed.keys());
  const past = expiredKeepsakes(view.keepsakes, rules, { now, needed });
  const size = past.reduce((sum, one) => sum + one.bytes, 0);
  return (
    <div className={styles.line}>
      <span className="label">How long they stay</span>
      {KINDS.map(({ key, label, data }) => (
        <NativeSelect
          key={key}
          size="xs"
          label={label}
          data={data}
          value={rules[key] === undefined ? '' : String(rules[key])}
          onChange={(event) => void setRule(install.id, key, event.currentTarget.value)}
        />
      ))}
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
