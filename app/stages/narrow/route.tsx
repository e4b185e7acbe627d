import { Button } from '@mantine/core';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import { answerStart, endNarrowing, putAllBack, switchForStart, takeAnswersBack } from '~/commands';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { count, counted } from '~/parts/format';
import { HeldFirst } from '~/parts/HeldFirst';
import { Opening } from '~/parts/Opening';
import { Ago, Buttons, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { SurveyFirst } from '~/parts/SurveyFirst';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type Attempts, useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type NarrowView, query } from '~/queries';
import type { Narrowing } from '~/store';
import { Begin } from './Begin';
import styles from './narrow.module.css';
import {
  culpritWords,
  leftWords,
  nameOf,
  outcomeOf,
  percent,
  OUTCOME_WORDS,
  SIGN_WORDS,
  symptomWords,
  whyThis,
} from './narrow-words';
import { FromLog } from './FromLog';
import { HelpReport } from './HelpReport';
import { Starts, SUSPECTED } from './Starts';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  return { view: await query('narrowing', params.install!) };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="What breaks it" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Narrow() {
  const { view } = useLoaderData<typeof clientLoader>();
  const at = useAttempt();
  if (!view)
    return (
      <SurveyFirst stage="What breaks it">
        Mods that lie in the folder are switched off and on to find the one that breaks the game.
      </SurveyFirst>
    );
  const { under } = view;
  return (
    <StagePage
      title="What breaks it"
      left={<Suspects view={view} />}
      middle={
        <>
          {under ? <UnderWay view={view} under={under} at={at} /> : <Begin view={view} at={at} />}
          <FromLog since={view.last?.at} nameOf={nameIn(view)} />
        </>
      }
      right={
        <>
          {under ? <Next view={view} under={under} at={at} /> : <Since view={view} />}
          <HelpReport view={view} />
        </>
      }
      action={under && <NextAction view={view} under={under} at={at} />}
    />
  );
}

/** What a mod is called, whether it lies in the folder or not. */
const nameIn =
  (view: NarrowView) =>
  (id: string): string =>
    view.names.get(id) ?? id;

/** Mods by how likely they have to do with it; before the first start by what is known of them. */
function Suspects({ view }: { view: NarrowView }) {
  const { under } = view;
  const sorted = view.mods.filter(({ isAlways }) => !isAlways).toSorted((a, b) => b.involved - a.involved);
  const most = sorted[0]?.involved ?? 1;
  const shown = under && under.starts.length > 0 ? sorted.filter(({ involved }) => involved > SUSPECTED) : sorted;
  const cleared = sorted.length - shown.length;
  const always = view.mods.filter(({ isAlways }) => isAlways);
  return (
    <>
      <h2 className={`label ${parts.heading}`}>Suspected · {count(shown.length)}</h2>
      <ul className={styles.suspects}>
        {shown.map(({ mod, name, involved, signs }) => (
          <li key={mod}>
            <span className={styles.suspect}>
              <span>{name}</span>
              <span className="mono">{percent(involved)} %</span>
            </span>
            <span className={styles.bar} aria-hidden="true">
              <span style={{ width: `${(involved / most) * 100}%` }} />
            </span>
            {signs[0] !== undefined && <span className="quiet">{SIGN_WORDS[signs[0]]}</span>}
          </li>
        ))}
      </ul>
      {cleared > 0 && (
        <p className={`quiet ${styles.group}`}>Cleared by the starts so far: {counted(cleared, 'mod')}.</p>
      )}
      {always.length > 0 && (
        <p className={`quiet ${styles.group}`}>On in every start: {always.map(({ name }) => name).join(', ')}.</p>
      )}
    </>
  );
}

/** What has changed since the game last ran. */
function Since({ view: { since, build, mods } }: { view: NarrowView }) {
  return (
    <>
      <Section>Since it last ran</Section>
      {since ? (
        <>
          <Pairs
            rows={[
              { name: 'Last start that went well', value: <Ago at={since.at} /> },
              {
                name: 'Game',
                value: since.version === undefined || since.version === build ? build : `${since.version} → ${build}`,
              },
              { name: 'Mods added', value: count(since.added) },
              { name: 'Mods at another release', value: count(since.updated) },
              { name: 'Mods gone', value: count(since.gone) },
            ]}
          />
        </>
      ) : (
        <p className="quiet">
          No start is known that went well with all mods: {counted(mods.length, 'mod')} are suspected by what is known
          of them.
        </p>
      )}
    </>
  );
}

interface UnderWayProps {
  readonly view: NarrowView;
  readonly under: Narrowing;
  readonly at: Attempts;
}

function UnderWay({ view, under, at }: UnderWayProps) {
  const { install } = useFrame();
  const [first, ...others] = view.culprits;
  return (
    <div className={styles.middle}>
      <div className={parts.headRow}>
        <h2>{symptomWords(view, under.symptom)}</h2>
        <span className="quiet">columns: {counted(view.mods.length, 'mod')} in load order · filled: on</span>
      </div>
      {under.build !== view.build && (
        <Notice>
          The folder is at {view.build} now, and this was begun at {under.build}: what the starts told may no longer
          count. End it here, or go on.
        </Notice>
      )}
      <Starts view={view} under={under} />
      {!view.next && first && (
        <Notice tone="right">
          <b>{culpritWords(view, first.mods)}.</b> {percent(first.likely)} in 100 after{' '}
          {counted(under.starts.length, 'start')}.
        </Notice>
      )}
      {view.next && under.starts.length > 0 && first && (
        <p className={styles.group}>
          Likeliest:{' '}
          {[first, ...others.slice(0, 2)]
            .map(({ mods, likely }) => `${culpritWords(view, mods)} (${percent(likely)} %)`)
            .join('; ')}
          .
        </p>
      )}
      {under.starts.length > 0 && (
        <div className={styles.group}>
          <Button
            size="xs"
            variant="default"
            disabled={at.busy}
            onClick={() => at.attempt(() => takeAnswersBack(install.id, under.starts.length - 1))}
          >
            Take the answer of start {under.starts.length} back
          </Button>
        </div>
      )}
    </div>
  );
}

/** Names of mods, as many as a person reads. */
const MOST_NAMED = 8;

function Next({ view, under }: UnderWayProps) {
  const { next } = view;
  if (!next) return <Since view={view} />;
  const suspected = next.on.filter((mod) => (view.mods.find((one) => one.mod === mod)?.involved ?? 0) > SUSPECTED);
  const named = suspected.slice(0, MOST_NAMED).map((mod) => nameOf(view, mod));
  return (
    <>
      <div className="label">Start {under.starts.length + 1}</div>
      <h2 className={parts.big}>
        {count(next.on.length)} on, {count(view.mods.length - next.on.length)} off
      </h2>
      <p className="quiet">Saves and settings stay as they are. All mods come back at the end.</p>
      {named.length > 0 && (
        <p>
          Of those that are suspected, on: {named.join(', ')}
          {suspected.length > named.length && ` and ${count(suspected.length - named.length)} more`}.
        </p>
      )}
      <p>
        {whyThis(view)} {leftWords(view)}
      </p>
      <Since view={view} />
    </>
  );
}

const ANSWERS = [
  ['runs', 'It runs'],
  ['fails', 'It fails'],
  ['cannot-tell', 'Cannot tell'],
] as const;

function NextAction({ view, under, at }: UnderWayProps) {
  const { install, service } = useFrame();
  const changing = useLatestJob(install.id, 'fetch', 'assemble');
  const starting = useLatestJob(install.id, 'start');
  const isBusy =
    at.busy || (changing !== undefined && isUnderWay(changing)) || (starting !== undefined && isUnderWay(starting));
  const { next } = view;
  const wanted = new Set(next?.on);
  const isSwitched = next !== undefined && view.mods.every(({ mod, isHere }) => isHere === wanted.has(mod));
  const told = isSwitched ? outcomeOf(view, under) : undefined;
  const culprits = view.culprits[0]?.mods ?? [];
  const tell = (outcome: Narrowing['starts'][number]['outcome']): void =>
    at.attempt(() => answerStart(install.id, next!.on, outcome));
  return (
    <>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      <HeldFirst why="first" />
      {!next && (
        <Buttons>
          {culprits.length > 0 && (
            <Button loading={isBusy} onClick={() => at.attempt(() => putAllBack(install.id, culprits.slice(0, 1)))}>
              Put all back but {nameOf(view, culprits[0]!)}
            </Button>
          )}
          <Button variant="default" disabled={isBusy} onClick={() => at.attempt(() => putAllBack(install.id))}>
            Put all back
          </Button>
        </Buttons>
      )}
      {next && !isSwitched && (
        <Button loading={isBusy} onClick={() => at.attempt(() => switchForStart(install.id, next.on))}>
          Switch mods for start {under.starts.length + 1}
        </Button>
      )}
      {isSwitched && (
        <>
          {service ? (
            <Buttons>
              <Button loading={isBusy} onClick={() => void jobs.start('start', install.id)}>
                Start the game
              </Button>
              {told !== undefined && (
                <Button variant="default" disabled={isBusy} onClick={() => tell(told)}>
                  Note that it {OUTCOME_WORDS[told]}
                </Button>
              )}
            </Buttons>
          ) : (
            <p className="quiet">Start the game, then say how it went.</p>
          )}
          <Buttons>
            {ANSWERS.map(([outcome, words]) => (
              <Button key={outcome} size="xs" variant="default" disabled={isBusy} onClick={() => tell(outcome)}>
                {words}
              </Button>
            ))}
          </Buttons>
        </>
      )}
      {next && (
        <div className={styles.ends}>
          <Button
            size="compact-xs"
            variant="default"
            disabled={isBusy}
            onClick={() => at.attempt(() => putAllBack(install.id))}
          >
            End it, and put all back
          </Button>
          <Button
            size="compact-xs"
            variant="default"
            disabled={isBusy}
            onClick={() => at.attempt(() => endNarrowing(install.id))}
          >
            End it, folder as it is
          </Button>
        </div>
      )}
    </>
  );
}
