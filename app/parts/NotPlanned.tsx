import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { Empty } from './parts';
import { useFrame } from './use-frame';

/** Why a stage that follows from the target has nothing to plan by yet, and the way on. */
export function NotPlanned({ children }: { children: ReactNode }) {
  const { install, survey } = useFrame();
  const { target } = install;
  if (survey && target)
    return (
      <Empty
        title={`What ${target.build} consists of is not known`}
        action={
          <Button component={Link} to={`/games/${install.game}`}>
            Open the game’s sources
          </Button>
        }
      >
        No source tells its files. Add one that does, or record the build from a folder that has it.
      </Empty>
    );
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
