import { Select } from '@mantine/core';
import { bytes, count, exactTime } from '~/parts/format';
import { LookLink } from '~/parts/LookLink';
import { Ago, FailureNotice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { VirtualRows } from '~/parts/VirtualRows';
import type { Address } from '~/parts/use-address';
import { type DifferenceView, useQuery } from '~/queries';
import { failureToWire } from '#core/failure';
import { shortenMiddle } from '#core/text';

import styles from './survey.module.css';

const WORDS: Record<DifferenceView['changes'][number], string> = {
  changed: 'changed',
  new: 'new',
  gone: 'gone',
  moved: 'moved',
};

/** Chooses an earlier survey of the folder to compare the latest one with. */
export function Compare({ past, now, address }: { past: readonly number[]; now: number; address: Address }) {
  const earlier = past.filter((at) => at < now);
  if (earlier.length === 0) return null;
  return (
    <>
      <Section>Compare with an earlier survey</Section>
      <Select
        size="xs"
        aria-label="Earlier survey"
        placeholder="Select a survey"
        clearable
        data={earlier.map((at) => ({ value: String(at), label: exactTime(at) }))}
        value={address.get('since') ?? null}
        onChange={(value) => address.set({ since: value ?? undefined })}
      />
    </>
  );
}

/** What stands before the time of the other survey. */
function differenceWords(files: number | undefined): string {
  if (files === undefined) return 'Comparing with';
  if (files === 0) return 'No file changed since';
  return files === 1 ? '1 file changed since' : `${count(files)} files changed since`;
}

/** What is different from an earlier survey, file by file. */
export function Difference({ install, since, now }: { install: string; since: number; now: number }) {
  const { value, failure } = useQuery('difference', [install, since], now);
  return (
    <div className={styles.picture}>
      <div className={styles.filter}>
        <h2 style={{ fontSize: 16 }}>
          {differenceWords(value?.paths.length)} <Ago at={since} />
        </h2>
        <LookLink className="link" changes={{ since: undefined }}>
          Back to the map
        </LookLink>
      </div>
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      {value && (
        <VirtualRows
          height={27}
          label="Differences"
          length={value.paths.length}
          row={(i) => (
            <div className={parts.item}>
              <span className={styles.state}>{WORDS[value.changes[i]!]}</span>
              <span className={parts.grow} title={value.paths[i]}>
                {shortenMiddle(value.paths[i]!, 60)}
                {value.to[i] !== undefined && ` → ${shortenMiddle(value.to[i], 40)}`}
              </span>
              <span className={`mono ${styles.size}`}>{bytes(value.sizes[i]!)}</span>
            </div>
          )}
        />
      )}
    </div>
  );
}
