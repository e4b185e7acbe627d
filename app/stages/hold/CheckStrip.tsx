import { counted, exactTime, shortDay } from '~/parts/format';
import type { HoldCheck } from '~/store';
import styles from './hold.module.css';

const DAYS = 14;
const DAY = 86_400_000;
const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

const stands = ({ drift, setting, lock, unlocked = 0 }: HoldCheck): boolean =>
  drift === 0 && setting !== false && lock !== false && unlocked === 0;

function checkWords({ drift, setting, lock, unlocked = 0, glance, repaired }: HoldCheck): string {
  const facts = [
    ...(repaired ? [`${counted(repaired, 'file')} put right`] : []),
    ...(drift > 0 ? [`${counted(drift, 'file')} drifted`] : []),
    ...(setting !== false ? [] : ['update setting changed']),
    ...(lock !== false ? [] : ['record unlocked']),
    ...(unlocked > 0 ? [`${counted(unlocked, 'file')} can be written again`] : []),
  ];
  const words = facts.join(', ') || 'everything in order';
  return glance ? `${words} (by names, sizes and times)` : words;
}

/**
 * The last two weeks, a column a day: checks that found all in order are full, others outlined; a look by names, sizes and
 * times is thin, a repair has a notch.
 */
export function CheckStrip({ checks }: { checks: readonly HoldCheck[] }) {
  const last = checks.at(-1)?.at ?? 0;
  const days = Array.from({ length: DAYS }, (_, i) => dayOf(last - (DAYS - 1 - i) * DAY));
  return (
    <ol className={styles.strip} aria-label="Checks of the last two weeks">
      {days.map((day) => {
        const ofDay = checks.filter(({ at }) => dayOf(at) === day);
        return (
          <li key={day} title={shortDay(day)}>
            {ofDay.map((check) => (
              <span
                key={check.at}
                data-stands={stands(check) || undefined}
                data-kind={check.repaired ? 'repair' : check.glance ? 'glance' : 'check'}
                title={`${exactTime(check.at)}: ${checkWords(check)}`}
              >
                <span className="unseen">
                  {exactTime(check.at)}: {checkWords(check)}
                </span>
              </span>
            ))}
          </li>
        );
      })}
    </ol>
  );
}
