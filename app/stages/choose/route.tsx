import { Button } from '@mantine/core';
import { memo } from 'react';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { z } from 'zod';
import { BuildLabelSchema } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import { useBuild, useFrame } from '~/frame/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { bytes } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { reckon } from '~/reckoning/client';
import type { ChooseView } from '~/reckoning/views';
import { broadcast } from '~/store/changes';
import { updateInstall } from '~/store/installs';
import { Board } from './Board';
import { ChoiceDetails } from './ChoiceDetails';

export const clientLoader = ({ params }: ClientLoaderFunctionArgs) => reckon('choose', params.install!);
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

const TargetSchema = z.object({ build: BuildLabelSchema });

/** Records the decision: the build, the releases that run there, and why. */
export async function clientAction({ request, params }: ActionFunctionArgs) {
  const { build } = TargetSchema.parse(Object.fromEntries(await request.formData()));
  const target = await reckon('decide', params.install!, build);
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
          <Empty title="Survey the folder first">Which mods are there is known once their files were looked at.</Empty>
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
      {toFetch !== undefined && <p className="quiet">{bytes(toFetch)} to fetch, the rest is on disk.</p>}
      <fetcher.Form method="post">
        <input type="hidden" name="build" value={choice.build} />
        <Buttons>
          <Button type="submit" disabled={isTarget || fetcher.state !== 'idle'}>
            {isTarget ? `${choice.build} is the target` : `Make ${choice.build} the target`}
          </Button>
        </Buttons>
      </fetcher.Form>
    </>
  );
});
