import { errorWords } from './failure-words';
import parts from './parts.module.css';

/** Says what happened to which file and what can be done, in place of a page that could not be shown. */
export function FailurePage({ error }: { error: unknown }) {
  const { what, next } = errorWords(error);
  return (
    <main className={parts.failurePage}>
      <h1>This page could not be shown</h1>
      <p role="alert">{what}</p>
      <p className="quiet">{next}</p>
      <p>
        <a href="/" style={{ color: 'var(--blue)' }}>
          Open the first install
        </a>
      </p>
    </main>
  );
}
