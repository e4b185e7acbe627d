import { Link } from 'react-router';
import styles from './HomeLink.module.css';

/** The product's name and sign, which lead to the games. */
export function HomeLink() {
  return (
    <Link to="/games" className={styles.mark} title="Your games">
      <svg width="20" height="18" viewBox="0 0 20 18" aria-hidden="true">
        <rect x="0" y="1" width="9" height="4" fill="var(--ink)" />
        <rect x="0" y="7" width="13" height="3.5" fill="var(--ink)" />
        <rect x="0" y="13" width="20" height="3.5" fill="var(--ink)" />
        <path d="M15 6l4 2.7-4 2.7z" fill="var(--blue)" />
      </svg>{' '}
      Regressum
    </Link>
  );
}
