import { UnstyledButton, useMantineColorScheme } from '@mantine/core';
import { NavLink, useLocation } from 'react-router';
import { counted } from '~/parts/format';
import { HomeLink } from '~/parts/HomeLink';
import { useAddress } from '~/parts/use-address';
import type { FrameView } from '~/queries';
import styles from './frame.module.css';
import { nextStage, stageAddress, stageFigure, STAGES } from './stages';
import { waitingIn } from './waiting';

/** Pages that a person comes to from Mend, to mend one thing. */
const WITHIN_MEND = /\/(?:carry|narrow)$/;

export function TopBar({ view, findCommand }: { view: FrameView; findCommand: () => void }) {
  const address = useAddress();
  const { pathname } = useLocation();
  const { setColorScheme, colorScheme } = useMantineColorScheme();
  const next = nextStage(view);
  const waiting = waitingIn(view.install).length;
  const build = address.get('build');
  const panelOpen = address.get('panel') === 'stand-ins';
  const scheme = { auto: 'Match system', light: 'Light', dark: 'Dark' }[colorScheme];
  const schemeWords = `${scheme}: change the colour scheme`;
  const following = { auto: 'light', light: 'dark', dark: 'auto' } as const;
  return (
    <header className={styles.top}>
      <HomeLink />
      <nav aria-label="Stages" className={styles.stages}>
        {STAGES.map(({ id, title }) => {
          const figure = stageFigure(id, view);
          const to = stageAddress(view.install.id, id, build);
          return (
            <NavLink
              key={id}
              to={to}
              className={styles.stageLink!}
              data-next={id === next || undefined}
              data-within={(id === 'mend' && WITHIN_MEND.test(pathname)) || undefined}
            >
              {title}
              {id === next && !pathname.endsWith(id) && <span className="unseen"> (next)</span>}
              {figure && (
                <span className={styles.badge} data-tone={figure.tone}>
                  {figure.text}
                </span>
              )}
            </NavLink>
          );
        })}
      </nav>
      <NavLink to={`/${view.install.id}/shelf`} className={styles.topLink!}>
        Shelf
        {waiting > 0 && (
          <span
            className={styles.badge}
            data-tone="attention"
            title={`${counted(waiting, 'followed mod')} new or changed`}
          >
            {waiting}
          </span>
        )}
      </NavLink>
      <NavLink to={`/${view.install.id}/keepsakes`} className={styles.topLink!}>
        Keepsakes
      </NavLink>
      <NavLink to={`/${view.install.id}/history`} className={styles.topLink!}>
        History
      </NavLink>
      {view.service && (
        <UnstyledButton
          className={styles.topButton}
          aria-pressed={panelOpen}
          onClick={() => address.set({ panel: panelOpen ? undefined : 'stand-ins' })}
        >
          Stand-ins
        </UnstyledButton>
      )}
      <UnstyledButton
        className={styles.topButton}
        title={schemeWords}
        onClick={() => setColorScheme(following[colorScheme])}
      >
        <span className={styles.scheme} aria-hidden="true" />
        <span className="unseen">{schemeWords}</span>
      </UnstyledButton>
      <UnstyledButton className={styles.keyButton} onClick={findCommand}>
        Ctrl K<span className="unseen">: find a command</span>
      </UnstyledButton>
    </header>
  );
}
