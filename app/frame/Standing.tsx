import { Button } from '@mantine/core';
import { lazy, Suspense, useEffect, useState } from 'react';
import { Ago } from '~/parts/parts';
import { type FrameView, query } from '~/queries';
import { noteStandingSeen, noteVisit, type Visit } from '~/commands';
import { broadcast } from '~/store';
import styles from './frame.module.css';
import { LATER } from './later';

const StandingFacts = lazy(LATER.StandingFacts);

/** The visit that one comes back from; what the services say is asked anew then. */
function useBackFrom({ install, builds }: FrameView): Visit | undefined {
  const [before, setBefore] = useState<{ of: string; visit: Visit | undefined }>();
  const { id, game } = install;
  useEffect(() => {
    let wanted = true;
    void noteVisit(
      id,
      builds.map(({ label }) => label),
    ).then(async (visit) => {
      if (!wanted) return;
      setBefore({ of: id, visit });
      if (!visit) return;
      // Offline, what was known before is told as it is.
      await query('refreshSources', game).then(
        () => broadcast({ type: 'changed' }),
        () => undefined,
      );
    });
    return () => void (wanted = false);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- one visit for each time that a folder is opened
  }, [id]);
  return before?.of === id ? before.visit : undefined;
}

/** Tells a person who comes back after a while, or who asks, where things stand. */
export function Standing({ view, asked, onClose }: { view: FrameView; asked: boolean; onClose: () => void }) {
  const before = useBackFrom(view);
  const [closed, setClosed] = useState(false);
  if (!asked && (before === undefined || closed)) return null;
  return (
    <section className={styles.standing} aria-label="Where things stand">
      <strong>Where things stand</strong>
      {before && (
        <span className="quiet">
          Last visit <Ago at={before.at} />
        </span>
      )}
      <Suspense>
        <StandingFacts view={view} before={before} />
      </Suspense>
      <Button
        size="compact-xs"
        variant="default"
        onClick={() => {
          setClosed(true);
          onClose();
          void noteStandingSeen(view.install.id);
        }}
      >
        Close
      </Button>
    </section>
  );
}
