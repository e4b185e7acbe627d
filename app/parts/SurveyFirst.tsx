import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { Empty } from './parts';
import { StagePage } from './StagePage';
import { useFrame } from './use-frame';

/** A stage that has nothing to go by before the first survey. */
export function SurveyFirst({ stage, children }: { stage: string; children: string }) {
  const { install } = useFrame();
  return (
    <StagePage
      title={stage}
      middle={
        <Empty
          title="Survey the folder first"
          action={
            <Button component={Link} to={`/${install.id}/survey`}>
              Open Survey
            </Button>
          }
        >
          {children}
        </Empty>
      }
      right={null}
    />
  );
}
