import { Button } from '@mantine/core';
import { useState } from 'react';
import {
  type ClientLoaderFunctionArgs,
  type ShouldRevalidateFunctionArgs,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { asMod, BuildLabelSchema } from '#core/builds';
import { decideCarried } from '~/commands';
import { FailurePage } from '~/parts/FailurePage';
import { Opening } from '~/parts/Opening';
import { Notice, Section } from '~/parts/parts';
import { StagePage } from '~/parts/StagePage';
import { SurveyFirst } from '~/parts/SurveyFirst';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { type Attempts, useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type CarryView, query } from '~/queries';
import { getInstall, getSession } from '~/store';
import { CarriedFiles } from './CarriedFiles';
import { CarriedMods } from './CarriedMods';
import { CarryAll } from './CarryAll';
import { CHOICE_WORDS, didWords } from './carry-words';
import styles from './carry.module.css';
import { FileView } from './FileView';
import { Missing } from './Missing';
import { CarryAction, Outcome } from './Outcome';
import { useMerged } from './use-merged';

const ASKED = ['mod', 'build', 'from', 'release'] as const;

export async function clientLoader({ params, request }: ClientLoaderFunctionArgs) {
  const { searchParams } = new URL(request.url);
  const install = params.install!;
  const asked = BuildLabelSchema.safeParse(searchParams.get('build'));
  const mend = await query('mend', install, asked.success ? asked.data : undefined);
  if (!mend) return undefined;
  const out = mend.items.filter(({ to }) => to === undefined).map(({ mod }) => mod);
  const mod = searchParams.get('mod');
  const from = BuildLabelSchema.safeParse(searchParams.get('from'));
  const { game } = await getInstall(install);
  const [session, all, view] = await Promise.all([
    getSession(game),
    query('carryable', install, out, mend.to),
    mod === null
      ? undefined
      : query('carry', install, {
          ...{ mod: asMod(mod), release: searchParams.get('release') ?? undefined, to: mend.to },
          from: from.success ? from.data : undefined,
        }),
  ]);
  return { all, view, to: mend.to, isSignedIn: session !== undefined };
}
clientLoader.hydrate = true as const;

/** Another mod, release or build is another question; what of it is looked at is not. */
export function shouldRevalidate(next: ShouldRevalidateFunctionArgs): boolean {
  const asked = ({ searchParams }: URL): string => JSON.stringify(ASKED.map((name) => searchParams.get(name)));
  return asked(next.currentUrl) !== asked(next.nextUrl) || unlessOnlyLookedAt(next);
}

export function HydrateFallback() {
  return <Opening what="Carry forward" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Carry() {
  const data = useLoaderData<typeof clientLoader>();
  if (!data)
    return (
      <SurveyFirst stage="Carry forward">
        Which mods the patch has left behind is worked out from the build on disk.
      </SurveyFirst>
    );
  const { view, all, to, isSignedIn } = data;
  return view ? (
    <Carrying key={`${view.mod} ${view.to}`} view={view} all={all} isSignedIn={isSignedIn} />
  ) : (
    <CarryAll all={all} to={to} />
  );
}

function Carrying({ view, all, isSignedIn }: { view: CarryView; all: readonly CarryView[]; isSignedIn: boolean }) {
  const { install } = useFrame();
  const address = useAddress();
  const at = useAttempt();
  const [done, setDone] = useState<string>();
  const { files, failure } = useMerged(install, view);
  const merged = new Map(files?.map((one) => [one.path, one]));
  const first =
    view.files.find(({ path }) => (merged.get(path)?.count.open ?? 0) > 0) ??
    view.files.find(({ state }) => state === 'changed');
  const file = view.files.find(({ path }) => path === address.get('file')) ?? first ?? view.files[0];
  const own = file && merged.get(file.path);
  return (
    <StagePage
      title="Carry forward"
      left={
        <>
          <CarriedMods all={all} current={view.mod} />
          <CarriedFiles view={view} merged={merged} current={file?.path} />
          {own && own.kind !== undefined && (
            <div className={styles.group}>
              <Section>What the mod does</Section>
              <p>{didWords('It', own.did.ours)}</p>
              <Section>What the patch does</Section>
              <p>{didWords('It', own.did.theirs)}</p>
            </div>
          )}
          <Rules view={view} at={at} />
        </>
      }
      middle={
        view.missing.length > 0 ? (
          <Missing view={view} at={at} isSignedIn={isSignedIn} />
        ) : failure !== undefined ? (
          <Notice tone="wrong">{failure}</Notice>
        ) : (
          <FileView view={view} file={file} own={own} at={at} />
        )
      }
      right={<Outcome view={view} files={files} own={own} at={at} />}
      action={
        <CarryAction
          {...{ view, files, at, done }}
          onDone={(version) => {
            setDone(version);
            address.set({ at: undefined });
          }}
        />
      }
    />
  );
}

/** Decisions that count for a whole column. */
function Rules({ view, at }: { view: CarryView; at: Attempts }) {
  const { install } = useFrame();
  if (view.rules.length === 0) return null;
  return (
    <section className={styles.group} aria-label="Rules">
      <Section>Rules for conflicts</Section>
      {view.rules.map(({ file, name, choice }) => (
        <p key={`${file} ${name}`}>
          {name} in <span className="mono">{file}</span>: {CHOICE_WORDS[choice]}.{' '}
          <Button
            size="compact-xs"
            variant="default"
            disabled={at.busy}
            onClick={() =>
              at.attempt(() =>
                decideCarried(install.id, view.mod, ({ decided, rules }) => ({
                  decided,
                  rules: rules.filter((one) => one.file !== file || one.name !== name),
                })),
              )
            }
          >
            Take the rule back
          </Button>
        </p>
      ))}
    </section>
  );
}
