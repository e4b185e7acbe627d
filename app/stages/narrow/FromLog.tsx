import { Button, FileButton } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import type { LogCauses } from '#core/log-causes';
import { count, counted } from '~/parts/format';
import { Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { query, useQuery } from '~/queries';
import { causeWords } from './cause-words';
import styles from './narrow.module.css';

/** Findings that are shown at once. */
const MOST_SHOWN = 30;

/** What the log of the last start tells, or one that is handed over. */
export function FromLog({ since, nameOf }: { since: number | undefined; nameOf: (id: string) => string }) {
  const { install } = useFrame();
  const at = useAttempt();
  const [handed, setHanded] = useState<{ name: string; told: LogCauses | undefined }>();
  const { value } = useQuery('logCauses', [install.id], since ?? 0);
  const told = handed?.told ?? value;
  const { findings = [], unusual = [], lines = 0, ruledUntil } = told ?? {};
  return (
    <section className={styles.group} aria-label="From the log">
      <Section>From the log{handed ? ` ${handed.name}` : ' of the last start'}</Section>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      {!told && <p className="quiet">No log of a start is known.</p>}
      {told && findings.length === 0 && (
        <p className="quiet">
          Nothing is recognised in its {counted(lines, 'line')}.
          {unusual.length > 0 && ' These lines are not in the log of the last start that went well:'}
        </p>
      )}
      {ruledUntil !== undefined && (
        <p className="quiet">
          The game’s own patterns take too long: they were looked for up to line {count(ruledUntil)} of {count(lines)}.
        </p>
      )}
      {unusual.length > 0 && (
        <div className={parts.log} tabIndex={0} role="region" aria-label="Unusual lines">
          {unusual.map(({ line, text }) => `${count(line)}  ${text}`).join('\n')}
        </div>
      )}
      <ul className={styles.findings} aria-label="Findings">
        {findings.slice(0, MOST_SHOWN).map((finding) => {
          const { words, step, to } = causeWords(finding, nameOf);
          const { line, text, count: times } = finding;
          return (
            <li key={JSON.stringify([finding.cause, finding.mod, finding.other, finding.path])}>
              {text !== '' && (
                <code title={text}>
                  {count(line)} {text.slice(0, 160)}
                </code>
              )}
              <span>
                {words} {times > 1 && <span className="quiet">{count(times)} times. </span>}
                <Link className="link" to={`/${install.id}/${to}`}>
                  {step}
                </Link>
              </span>
            </li>
          );
        })}
      </ul>
      {findings.length > MOST_SHOWN && <p className="quiet">and {count(findings.length - MOST_SHOWN)} more.</p>}
      <FileButton
        onChange={(file) =>
          file &&
          at.attempt(async () => setHanded({ name: file.name, told: await query('logCauses', install.id, file) }))
        }
        inputProps={{ 'aria-label': 'A log' }}
      >
        {(props) => (
          <Button {...props} size="xs" variant="default" loading={at.busy}>
            Read a log…
          </Button>
        )}
      </FileButton>
    </section>
  );
}
