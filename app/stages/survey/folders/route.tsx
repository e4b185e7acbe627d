import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import { useFrame } from '~/parts/use-frame';
import { useAdding } from '~/parts/add-folder/use-adding';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';
import { Ago, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { placeWords } from '~/parts/place-words';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { mirrorState } from '~/changes';
import { canChange } from '~/places';
import { getHold, getSurvey, listInstalls } from '~/store';
import { CopyFolder } from './CopyFolder';
import { DeleteFiles } from './DeleteFiles';
import { EditInstall } from './EditInstall';
import { FindAgain } from './FindAgain';
import { Forget } from './Forget';
import { NotTakenOver } from './NotTakenOver';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const all = await listInstalls();
  const game = all.find(({ id }) => id === params.install)?.game;
  const installs = all.filter((install) => install.game === game);
  const here = installs.find(({ id }) => id === params.install);
  return {
    folders: await Promise.all(installs.map(async (install) => ({ install, at: (await getSurvey(install))?.at }))),
    changes: here !== undefined && (await canChange(here.place)),
    held: here !== undefined && (await getHold(here.id)) !== undefined,
    mirror: here && (await mirrorState(here)),
  };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="the folders" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Folders() {
  const view = useLoaderData<typeof clientLoader>();
  const { install, index } = useFrame();
  const { ways, form } = useAdding(index, install);

  return (
    <StagePage
      title="Folders"
      left={
        <>
          <div className={`label ${parts.heading}`}>Folders of {index.game.title}</div>
          {view.folders.map(({ install: one, at }) => (
            <Link
              key={one.id}
              to={`/${one.id}/survey`}
              className={parts.item}
              aria-current={one.id === install.id ? 'true' : undefined}
              data-item
            >
              <span className={parts.grow}>
                {one.title}
                <div className="quiet">
                  {placeWords(one.place)} · {at === undefined ? 'not checked' : <Ago at={at} />}
                </div>
              </span>
            </Link>
          ))}
        </>
      }
      middle={ways}
      right={
        <>
          {form}
          <Section>{install.title}</Section>
          <NotTakenOver install={install} state={view.mirror} />
          <EditInstall key={install.id} install={install} index={index} />
          {install.place.kind !== 'list' && (
            <CopyFolder key={`copy ${install.id}`} install={install} canMove={view.changes} held={view.held} />
          )}
          <FindAgain key={`find ${install.id}`} install={install} />
          {view.changes && <DeleteFiles key={`delete ${install.id}`} install={install} held={view.held} />}
          <Forget key={install.id} install={install} />
        </>
      }
    />
  );
}
