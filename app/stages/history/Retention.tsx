import { Button } from '@mantine/core';
import { expired, type StoreView } from '#core/contents';
import { deleteAllKept } from '~/commands';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import { NO_LIMIT, RetentionFields, type RetentionKind } from '~/parts/RetentionFields';
import { useAttempt } from '~/parts/use-attempt';
import type { Install } from '~/store';
import styles from './history.module.css';

const days = (...some: number[]) => [NO_LIMIT, ...some.map((n) => ({ value: String(n), label: `for ${n} days` }))];
const KINDS: readonly RetentionKind[] = [
  { key: 'changeDays', label: 'What changes keep', data: days(7, 30, 90, 365) },
  {
    key: 'changeBytes',
    label: 'And at most',
    data: [
      { value: '', label: 'any amount' },
      ...[1, 5, 20, 100].map((n) => ({ value: String(n * 1e9), label: `${n} GB` })),
    ],
  },
  { key: 'fetchedDays', label: 'Fetched, not laid down', data: days(7, 30) },
  {
    key: 'builds',
    label: 'Kept builds',
    data: [NO_LIMIT, { value: '1', label: 'the newest' }, { value: '2', label: 'the newest 2' }],
  },
];

/** How long what is kept stays. What is past its time is named with its bytes, and deleted only when a person says so. */
export function Retention({
  view,
  install,
  now,
  busy,
}: {
  view: StoreView;
  install: Install;
  now: number;
  busy: boolean;
}) {
  const rules = install.retention ?? {};
  const past = expired(view, rules, now);
  const references = [...past.fetched, ...past.builds];
  const sum =
    past.changes.reduce((all, { keeps }) => all + keeps.bytes, 0) + references.reduce((all, one) => all + one.bytes, 0);
  const things = [
    past.changes.length > 0 && counted(past.changes.length, 'change'),
    past.fetched.length > 0 && 'what was fetched',
    past.builds.length > 0 && counted(past.builds.length, 'kept build'),
  ].filter(Boolean);
  const { attempt, busy: isDeleting, failure } = useAttempt();
  const remove = async (): Promise<void> => {
    await deleteAllKept(
      install.id,
      past.changes.map(({ id }) => id),
    );
    for (const { id, files, bytes: size } of references)
      await jobs.start('tend-store', install.id, { act: 'drop', reference: id, files, bytes: size });
  };
  return (
    <div className={styles.foot}>
      <span className="label">Keep</span>
      <RetentionFields install={install} kinds={KINDS} />
      <p className="quiet">
        {things.length === 0
          ? 'Nothing is past its time. Nothing is ever deleted by itself.'
          : `Past its time: ${things.join(', ')}, ${bytes(sum)}.`}
      </p>
      {past.changes.length > 0 && (
        <p className="quiet">Files that nobody else is known to have are kept in a keepsake first.</p>
      )}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {things.length > 0 && (
        <Button size="xs" variant="default" disabled={busy || isDeleting} onClick={() => attempt(remove)}>
          Delete what is past its time, {bytes(sum)}
        </Button>
      )}
    </div>
  );
}
