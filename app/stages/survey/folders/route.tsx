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
import { getSurvey, listInstalls } from '~/store';
import { EditInstall } from './EditInstall';
import { Forget } from './Forget';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const all = await listInstalls();
  const game = all.find(({ id }) => id === params.install)?.game;
  const installs = all.filter((install) => install.game === game);
  return Promise.all(installs.map(async (install) => ({ install, at: (await getSurvey(install))?.at })));
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
  const folders = useLoaderData<typeof clientLoader>();
  const { install, index } = useFrame();
  const { ways, form } = useAdding(index, install);

  return (
    <StagePage
      title="Folders"
      left={
        <>
          <div className={`label ${parts.heading}`}>Folders of {index.game.title}</div>
          {folders.map(({ install: one, at }) => (
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
          <EditInstall key={install.id} install={install} index={index} />
          <Forget key={install.id} install={install} />
        </>
      }
    />
  );
}
