import type { ReactNode } from 'react';
import { DropAnywhere } from '~/frame/DropAnywhere';
import { BroughtOver } from '~/parts/BroughtOver';
import { HomeLink } from '~/parts/HomeLink';
import { useFreshData } from '~/parts/use-fresh-data';
import styles from './games.module.css';

/** A page outside of any folder: the games, or one of them. */
export function GamesPage({ title, game, children }: { title: string; game?: string; children: ReactNode }) {
  useFreshData();
  return (
    <div className={styles.page}>
      <header className={styles.top}>
        <HomeLink />
      </header>
      <main className={styles.main} aria-label={title}>
        <h1>{title}</h1>
        <BroughtOver />
        {children}
      </main>
      <DropAnywhere open={game === undefined ? undefined : { game }} />
    </div>
  );
}
