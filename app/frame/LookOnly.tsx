import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { Empty } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import type { Install } from '~/store/records';

/** In place of the stages that change a folder, where the folder can only be looked at. */
export function LookOnly({ install }: { install: Install }) {
  return (
    <main>
      <Empty
        title={`${install.folder} can only be looked at`}
        action={
          <Button component={Link} to={`/${install.id}/survey`}>
            Survey {install.folder}
          </Button>
        }
      >
        It is a {placeWords(install.place)}: Regressum reads it, and tells what it is and which build your mods support.
        Fetching into it, laying down and holding work on the browser disk only, for now.
      </Empty>
    </main>
  );
}
