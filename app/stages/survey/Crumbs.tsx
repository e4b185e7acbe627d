import { Fragment } from 'react';
import type { FileState } from '#core/survey';
import { LookLink } from '~/parts/LookLink';
import { STATE_WORDS, StateMark } from '~/parts/state-marks';
import styles from './survey.module.css';

/** The way from the whole folder to what the map shows, each part a way back; and what its fillings mean. */
export function Crumbs({
  title,
  folder,
  states,
}: {
  title: string;
  folder: string;
  /** Those that the map can show. */
  states: readonly FileState[];
}) {
  const parts = folder === '' ? [] : folder.split('/');
  const crumb = (name: string, path: string, here: boolean) =>
    here ? (
      <strong>{name}</strong>
    ) : (
      <LookLink className="link" changes={{ folder: path, file: undefined }}>
        {name}
      </LookLink>
    );
  return (
    <div className={styles.crumbs}>
      <nav aria-label="Folder that the map shows">
        {crumb(title, '', parts.length === 0)}
        {parts.map((name, i) => (
          <Fragment key={i}>
            <span className="quiet"> / </span>
            {crumb(name, parts.slice(0, i + 1).join('/'), i === parts.length - 1)}
          </Fragment>
        ))}
      </nav>
      <span className={styles.legend}>
        {states.map((state) => (
          <span key={state}>
            <StateMark state={state} /> {STATE_WORDS[state]}
          </span>
        ))}
      </span>
    </div>
  );
}
