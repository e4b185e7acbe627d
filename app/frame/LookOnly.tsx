import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { Empty } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import type { Install } from '~/store';

/** In place of the stages that change a folder, where the folder is read-only here. */
export function LookOnly({ install }: { install: Install }) {
  return (
    <main>
      <Empty
        title={`${install.folder} is read-only here`}
        action={
          <Button component={Link} to={`/${install.id}/survey`}>
            Survey {install.folder}
          </Button>
        }
      >
        This folder ({placeWords(install.place)}) can be checked and compared.{' '}
        {install.place.kind === 'served'
          ? 'To change it, start the server with --write.'
          : 'To change it, let the server of this machine serve it: npm start -- --folder DIR --write.'}
      </Empty>
    </main>
  );
}
