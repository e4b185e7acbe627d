import { Button } from '@mantine/core';
import { memo } from 'react';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  replace,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { z } from 'zod';
import { BuildLabelSchema } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import { useBuild, useFrame } from '~/parts/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { bytes } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type ChooseView, query } from '~/queries';
import { broadcast, getInstall, updateInstall } from '~/store';
import { Board } from './Board';
import { ChoiceDetails } from './ChoiceDetails';

/** Without a target, and without a build in the address, the page opens on the build that is recommended. */
export async function clientLoader({ params, request }: ClientLoaderFunctionArgs) {
  const id = params.install!;
  const [view, { target }] = await Promise.all([query('choose', id), getInstall(id)]);
  const url = new URL(request.url);
  if (target || url.searchParams.has('build') || view.recommended === undefined || view.installed.length === 0)
    return view;
  url.searchParams.set('build', view.recommended);
  // A redirect in place: the way back leads to where one came from.
  throw replace(url.pathname + url.search);
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

const TargetSchema = z.object({ build: BuildLabelSchema });

/** Records the decision: the build, the releases that run there, and why. */
export async function clientAction({ request, params }: ActionFunctionArgs) {
  const { build } = TargetSchema.parse(Object.fromEntries(await request.formData()));
  const target = await query('decide', params.install!, build);
  await updateInstall(params.install!, (now) => ({ ...now, target }));
  broadcast({ type: 'changed' });
  return null;
}

export function HydrateFallback() {
  return <Opening what="Choose" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Choose() {
  const view = useLoaderData<typeof clientLoader>();
  const frame = useFrame();
  const build = useBuild(frame);
  const choice = view.choices.find((c) => c.build === build)!;
  if (!frame.survey) {
    return (
      <StagePage
        title="Choose"
        middle={
          <Empty title="Survey the folder first">Your mods are recognised once their files have been checked.</Empty>
        }
        right={null}
      />
    );
  }
  return (
    <StagePage
      title="Choose"
      middle={<Board view={view} choice={choice} />}
      right={<ChoiceDetails view={view} choice={choice} />}
      action={<MakeTarget choice={choice} view={view} />}
    />
  );
}

const MakeTarget = memo(function MakeTarget({ choice, view }: { choice: BuildChoice; view: ChooseView }) {
  const fetcher = useFetcher();
  const { install } = useFrame();
  const isTarget = install.target?.build === choice.build;
  const toFetch = view.toFetch.get(choice.build);
  return (
    <>
      {toFetch !== undefined && <p className="quiet">{bytes(toFetch)} of files to fetch; the rest is on disk.</p>}
      <fetcher.Form method="post">
        <input type="hidden" name="build" value={choice.build} />
        <Buttons>
          <Button type="submit" disabled={isTarget || fetcher.state !== 'idle'}>
            {isTarget ? `Build ${choice.build} is selected` : `Select build ${choice.build}`}
          </Button>
        </Buttons>
      </fetcher.Form>
    </>
  );
});
