import { TextInput } from '@mantine/core';
import { useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useNavigate, useRouteError } from 'react-router';
import type { Ownership } from '#core/builds';
import { useFrame } from '~/parts/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { errorWords } from '~/parts/failure-words';
import { Opening } from '~/parts/Opening';
import { Ago, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { placeWords } from '~/parts/place-words';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { bringInOffer, type FolderOffer } from '~/commands';
import { getSurvey, listInstalls } from '~/store';
import { EditInstall } from './EditInstall';
import { Forget } from './Forget';
import { OwnershipForm } from './OwnershipForm';
import { Ways } from './Ways';

// The parameter tells React Router’s types that this runs in the browser, so that handles stay what they are.
export async function clientLoader(_: ClientLoaderFunctionArgs) {
  const installs = await listInstalls();
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
  const navigate = useNavigate();
  const [title, setTitle] = useState('');
  const [ownership, setOwnership] = useState<Ownership>(install.ownership);
  const [failure, setFailure] = useState<string>();

  async function bringIn(offer: Promise<FolderOffer | undefined>): Promise<void> {
    setFailure(undefined);
    try {
      const what = await offer;
      // The person closed the picker without picking.
      if (!what) return;
      const folder = { title: title.trim() || what.name, folder: what.name, ownership, weights: install.weights };
      const id = await bringInOffer(what, folder);
      await navigate(`/${id}/survey`);
    } catch (error) {
      const { what, next } = errorWords(error);
      setFailure(`${what} ${next}`);
    }
  }

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
      middle={
        <Ways onOffer={(offer) => void bringIn(offer)} failure={failure && <Notice tone="wrong">{failure}</Notice>} />
      }
      right={
        <>
          <h2 style={{ fontSize: 16 }}>The folder to add</h2>
          <p className="quiet">Set this first: it decides which depots belong in the folder.</p>
          <TextInput
            label="Name"
            placeholder="Name of the folder"
            value={title}
            onChange={(event) => setTitle(event.currentTarget.value)}
          />
          <OwnershipForm index={index} ownership={ownership} onChange={setOwnership} />
          <Section>{install.title}</Section>
          <EditInstall key={install.id} install={install} index={index} />
          <Forget key={install.id} install={install} />
        </>
      }
    />
  );
}
