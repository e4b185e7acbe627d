import parts from './parts.module.css';

/** Stands where a page is being opened. */
export function Opening({ what }: { what: string }) {
  return <p className={parts.opening}>Opening {what}</p>;
}
