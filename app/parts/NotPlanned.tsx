import { Button } from '@mantine/core';
import { type ReactNode, useEffect, useState } from 'react';
import { Link } from 'react-router';
import { query } from '~/queries';
import { broadcast } from '~/store';
import { Empty } from './parts';
import { useFrame } from './use-frame';

/** Asks the sources what a build consists of: it may have come out since the folder was looked at. */
function Unknown({ install, game, build }: { install: string; game: string; build: string }) {
  const [asked, setAsked] = useState(false);
  useEffect(() => {
    let wanted = true;
    // What cannot be had is told below.
    void query('learn', install)
      .catch(() => undefined)
      .then(() => {
        if (!wanted) return;
        setAsked(true);
        broadcast({ type: 'changed' });
      });
    return () => void (wanted = false);
  }, [install, build]);
  if (!asked) return <Empty title={`Asking what ${build} consists of`}>Its manifests are read from the sources.</Empty>;
  return (
    <Empty
      title={`What ${build} consists of is not known`}
      action={
        <Button component={Link} to={`/games/${game}`}>
          Open the game’s sources
        </Button>
      }
    >
      No source tells its files. Add one that does, or record the build from a folder that has it.
    </Empty>
  );
}

/** Why a stage that follows from the target has nothing to plan by yet, and the way on. */
export function NotPlanned({ children }: { children: ReactNode }) {
  const { install, survey } = useFrame();
  const { target } = install;
  if (survey && target)
    return <Unknown key={target.build} install={install.id} game={install.game} build={target.build} />;
  return (
    <Empty
      title={survey ? 'Choose a build first' : 'Survey the folder first'}
      action={
        <Button component={Link} to={`/${install.id}/${survey ? 'choose' : 'survey'}`}>
          {survey ? 'Open Choose' : 'Open Survey'}
        </Button>
      }
    >
      {children}
    </Empty>
  );
}
