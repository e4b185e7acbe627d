import { Button, FileButton } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  Link,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { z } from 'zod';
import { failureToWire, type WireFailure } from '#core/failure';
import type { HoldSheet } from '#core/hold';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { GameStart } from '~/parts/GameStart';
import { KeepOffer } from '~/parts/KeepOffer';
import { modNames } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Ago, Buttons, Empty, FailureNotice, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt } from '~/parts/use-address';
import { type HoldView, query } from '~/queries';
import {
  bytesOf,
  type HandedText,
  holdInstall,
  importHoldSheet,
  letHoldGo,
  lookIntoSheet,
  readHandedSheets,
  readHandedTexts,
  type SheetArchive,
  type SheetOutcome,
  takeSheet,
} from '~/commands';
import { broadcast, getCatalogue, getInstall } from '~/store';
import { Drift } from './Drift';
import { HandOn } from './HandOn';
import { Means } from './Means';
import { mismatchWords } from './mismatch-words';
import { type RecordView, recordView } from './record-view';
import { StorefrontRecord } from './StorefrontRecord';
import { SheetInArchive } from './SheetInArchive';
import { SheetPage } from './SheetPage';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const [view, install] = await Promise.all([query('holdView', params.install!), getInstall(params.install!)]);
  return { view, record: await recordView(install), names: modNames(await getCatalogue(install.game)) };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

const IntentSchema = z.discriminatedUnion('intent', [
  z.object({ intent: z.literal('hold') }),
  z.object({ intent: z.literal('let-go') }),
]);

interface HoldOutcome {
  readonly failure?: WireFailure;
}

export async function clientAction({ request, params }: ActionFunctionArgs): Promise<HoldOutcome> {
  const form = IntentSchema.parse(Object.fromEntries(await request.formData()));
  const install = params.install!;
  try {
    if (form.intent === 'hold') await holdInstall(install);
    else await letHoldGo(install);
  } catch (error) {
    return { failure: failureToWire(error) };
  }
  broadcast({ type: 'changed' });
  return {};
}

export function HydrateFallback() {
  return <Opening what="Hold" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

const WHY = {
  'no-target': 'Select a build and lay it down to hold it.',
  'not-as-sheet':
    'The target no longer has the tree digest of its hold sheet: manifests or releases have changed since. Import the sheet again to see which.',
  'not-surveyed': 'Check every file first: a hold covers every byte.',
  departs: 'The folder differs from the target. Lay it down first.',
} as const;

export default function Hold() {
  const { view, names, record } = useLoaderData<typeof clientLoader>();
  const frame = useFrame();
  const { install } = frame;
  const sheet = view.hold?.sheet ?? view.draft;
  return (
    <StagePage
      title="Hold"
      left={<Means view={view} record={record} />}
      middle={
        sheet ? (
          <SheetPage sheet={sheet} held={view.hold !== undefined} />
        ) : (
          <Empty title="Nothing is held">{view.whyNoDraft && WHY[view.whyNoDraft]}</Empty>
        )
      }
      right={
        <>
          <div className="label">{view.hold ? 'Held' : 'Not held'}</div>
          <h2 className={parts.big}>{view.hold?.sheet.build ?? 'Updates allowed'}</h2>
          {view.hold && (
            <div className="quiet">
              since <Ago at={Date.parse(view.hold.sheet.heldAt)} />
            </div>
          )}
          {view.hold && <Drift view={view} hold={view.hold} />}
          {view.hold && view.departures.length === 0 && (
            <KeepOffer install={install.id} build={view.hold.sheet.build} since={view.hold.checks.length} />
          )}
          <StorefrontRecord view={record} />
          <GameStart view={frame} trials={view.trials} names={names} />
          <ImportSheet />
        </>
      }
      action={<HoldAction view={view} record={record} />}
    />
  );
}

const MOST_NAMED = 12;

const isZip = ({ name, type }: File): boolean => type === 'application/zip' || name.toLowerCase().endsWith('.zip');

function ImportSheet() {
  const { install } = useFrame();
  const [outcome, setOutcome] = useState<SheetOutcome | { failure: WireFailure }>();
  const [archive, setArchive] = useState<SheetArchive>();
  const take = async (name: string, bytes: Uint8Array): Promise<void> => {
    setOutcome(undefined);
    try {
      setOutcome(await importHoldSheet(install.id, bytes, name));
      broadcast({ type: 'changed' });
    } catch (error) {
      setOutcome({ failure: failureToWire(error) });
    }
  };
  const takeRest = async (rest: HoldSheet): Promise<void> => {
    await takeSheet(install.id, rest, false);
    setOutcome({ taken: rest });
    broadcast({ type: 'changed' });
  };
  const takeArchive = async (file: File): Promise<void> => {
    setArchive(undefined);
    setOutcome(undefined);
    try {
      setArchive(await lookIntoSheet(install, file));
    } catch (error) {
      setOutcome({ failure: failureToWire(error) });
    }
  };
  const takeFile = async (file: File): Promise<void> => {
    if (isZip(file)) return takeArchive(file);
    setArchive(undefined);
    return take(file.name, await bytesOf(file));
  };
  const takeHanded = useEffectEvent(({ name, bytes: given }: HandedText) => void take(name, given));
  useEffect(() => readHandedTexts(takeHanded), []);
  const takeHandedArchive = useEffectEvent((file: File) => void takeArchive(file));
  useEffect(() => readHandedSheets(takeHandedArchive), []);
  return (
    <>
      <Section>Import a hold sheet</Section>
      <p className="quiet">Its build, releases and ownership become the target. No file is changed.</p>
      <FileButton
        onChange={(file) => file && void takeFile(file)}
        accept="application/json,.json,application/zip,.zip"
        inputProps={{ 'aria-label': 'Hold sheet' }}
      >
        {(props) => (
          <Button {...props} size="xs" variant="default">
            Import a hold sheet
          </Button>
        )}
      </FileButton>
      {archive && (
        <>
          <SheetInArchive archive={archive} onTaken={() => setOutcome(undefined)} />
          <Button size="xs" onClick={() => void take(archive.file.name, archive.text)}>
            Import its sheet: {archive.sheet.build} with {counted(archive.sheet.releases.length, 'mod')}
          </Button>
        </>
      )}
      {outcome && 'failure' in outcome && <FailureNotice failure={outcome.failure} />}
      {outcome && 'refused' in outcome && (
        <Notice tone="wrong">
          {counted(outcome.refused.length, 'claim')} of the sheet {outcome.refused.length === 1 ? 'is' : 'are'} not true
          here. Nothing was changed.
          <ul>
            {outcome.refused.slice(0, MOST_NAMED).map((mismatch, i) => (
              <li key={i}>{mismatchWords(mismatch)}</li>
            ))}
            {outcome.refused.length > MOST_NAMED && <li>and {count(outcome.refused.length - MOST_NAMED)} more</li>}
          </ul>
          {outcome.rest && (
            <Button size="xs" variant="default" onClick={() => void takeRest(outcome.rest!)}>
              Import the rest: {outcome.rest.build} with {counted(outcome.rest.releases.length, 'mod')}
            </Button>
          )}
        </Notice>
      )}
      {outcome && 'taken' in outcome && (
        <Notice tone="right">
          {outcome.taken.build} is now the target.{' '}
          <Link className="link" to={`/${install.id}/fetch`}>
            Open Fetch
          </Link>
        </Notice>
      )}
    </>
  );
}

function HoldAction({ view, record }: { view: HoldView; record: RecordView }) {
  const { install } = useFrame();
  const fetcher = useFetcher<HoldOutcome>();
  const check = useLatestJob(install.id, 'survey');
  const sheet = view.hold?.sheet;
  const submit = (intent: 'hold' | 'let-go'): void => void fetcher.submit({ intent }, { method: 'post' });
  return (
    <>
      {fetcher.data?.failure && <FailureNotice failure={fetcher.data.failure} />}
      {view.draft && (
        <p className="quiet">
          {record.now && record.canChange
            ? `Turns off automatic updates${record.canLock ? ' and locks the storefront’s record' : ''}.`
            : 'The storefront’s record cannot be reached from here. Turn off updates there yourself; the files are checked against the sheet.'}
        </p>
      )}
      <Buttons>
        {sheet ? (
          <>
            <Button
              // What has drifted is put right first.
              variant={view.departures.length > 0 ? 'default' : 'filled'}
              disabled={(check !== undefined && isUnderWay(check)) || view.unknown.length > 0}
              onClick={() => void jobs.start('survey', install.id, { checkHold: true })}
            >
              Check {counted(sheet.files, 'file')} against the sheet
            </Button>
            <HandOn sheet={sheet} />
            <Button variant="default" disabled={fetcher.state !== 'idle'} onClick={() => submit('let-go')}>
              Release the hold on {sheet.build}
            </Button>
          </>
        ) : (
          <Button disabled={!view.draft || fetcher.state !== 'idle'} onClick={() => submit('hold')}>
            {view.draft
              ? `Hold ${view.draft.build}: ${counted(view.draft.files, 'file')}, ${bytes(view.draft.bytes)}`
              : 'Hold the folder'}
          </Button>
        )}
      </Buttons>
    </>
  );
}
