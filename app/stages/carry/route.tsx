import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import {
  type ClientLoaderFunctionArgs,
  Link,
  type ShouldRevalidateFunctionArgs,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { asMod, BuildLabelSchema } from '#core/builds';
import type { Difference } from '#core/merge';
import { carryForward, decideCarried, jsonPatchOf, packCarried, patchOf } from '~/commands';
import { FailurePage } from '~/parts/FailurePage';
import { count, counted } from '~/parts/format';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, Figure, Figures, ItemLink, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { saveBlob, saveFile } from '~/parts/save-file';
import { StagePage } from '~/parts/StagePage';
import { SurveyFirst } from '~/parts/SurveyFirst';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { type Attempts, useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type CarryView, query } from '~/queries';
import { getInstall, getSession } from '~/store';
import type { MergedFile } from '~/workers';
import { CarriedMods } from './CarriedMods';
import { CarryAll } from './CarryAll';
import { CHOICE_WORDS, didWords, STATE_WORDS } from './carry-words';
import styles from './carry.module.css';
import { Decide } from './Decide';
import { Differences } from './Differences';
import { Missing } from './Missing';
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

/** The state of a file in few words. */
function fileWords(file: CarryView['files'][number], merged: MergedFile | undefined): string {
  if (file.state !== 'changed') return STATE_WORDS[file.state];
  if (!merged) return 'not compared yet';
  if (merged.kind === undefined) return 'kept as it is: nothing explains it';
  const { clean, decided, open } = merged.count;
  if (open > 0) return `${count(open)} to decide`;
  return `${counted(clean, 'change')} without conflict${decided > 0 ? `, ${count(decided)} decided` : ''}`;
}

/** The folder that all lie in, with its slash. */
function sharedFolder(paths: readonly string[]): string {
  const [first = '', ...others] = paths;
  let end = first.lastIndexOf('/') + 1;
  while (end > 0 && !others.every((path) => path.startsWith(first.slice(0, end))))
    end = first.lastIndexOf('/', end - 2) + 1;
  return first.slice(0, end);
}

function Files({
  view,
  merged,
  current,
}: {
  view: CarryView;
  merged: ReadonlyMap<string, MergedFile>;
  current: string | undefined;
}) {
  const shared = sharedFolder(view.files.map(({ path }) => path));
  return (
    <>
      <h2 className={`label ${parts.heading}`}>Files of {view.name}</h2>
      {view.files.map((file) => {
        const own = merged.get(file.path);
        return (
          <ItemLink key={file.path} changes={{ file: file.path, at: undefined }} current={file.path === current}>
            <span className={`${parts.grow} ${styles.two}`}>
              <span className="mono" title={file.path}>
                {file.path.slice(shared.length)}
              </span>
              <span className={styles.state} data-open={(own && own.count.open > 0) || undefined}>
                {fileWords(file, own)}
              </span>
            </span>
          </ItemLink>
        );
      })}
    </>
  );
}

const SHOWN = {
  all: 'All that differs',
  conflict: 'Both changed it',
  ours: 'The mod changed it',
  theirs: 'The patch changed it',
};
type Shown = keyof typeof SHOWN;

interface FileProps {
  readonly view: CarryView;
  readonly file: CarryView['files'][number] | undefined;
  readonly own: MergedFile | undefined;
  readonly at: Attempts;
}

const KIND_WORDS: Record<NonNullable<MergedFile['kind']>, string> = {
  ...{
    table: 'a table',
    json: 'JSON',
    xml: 'XML',
    ini: 'names and values',
    records: 'a table of records',
    text: 'text',
  },
};

/** What is told of a file that has no places to look at. */
function NoPlaces({ view, file, own }: FileProps) {
  if (!file) return <p className={`quiet ${styles.group}`}>Select a file.</p>;
  const told: Record<CarryView['files'][number]['state'], string> = {
    unchanged: `${view.to} has the game’s file as it was at ${view.from}: the mod’s file is kept as it is.`,
    gone: `${view.to} has no such file any more. The mod’s file is kept, and may do nothing there.`,
    own: 'This file is made from no file of the game: it is kept as it is.',
    changed: own ? 'Nothing that can be told differs.' : 'Its three versions are not compared yet.',
  };
  const isUnknown = own !== undefined && own.kind === undefined;
  return (
    <Empty title={file.path}>
      {isUnknown
        ? 'No rule of the game explains these bytes, so they are never guessed: the mod’s file is kept as it is, and may break.'
        : told[file.state]}
    </Empty>
  );
}

function FileView(props: FileProps) {
  const { view, file, own, at } = props;
  const address = useAddress();
  if (!file || !own || own.kind === undefined || own.differences.length === 0) return <NoPlaces {...props} />;
  const shown = (Object.keys(SHOWN) as Shown[]).find((one) => one === address.get('only')) ?? 'all';
  const all = own.differences.map((difference, place) => ({ difference, place }));
  const rows = all.filter(({ difference: { by } }) => shown === 'all' || by === shown);
  const asked = address.get('at');
  const selected: Difference | undefined = asked === undefined ? undefined : own.differences[Number(asked)];
  const firstOpen = own.differences.find(({ by, decision }) => by === 'conflict' && decision === undefined);
  const current = selected ?? firstOpen;
  const total = own.count.clean + own.count.decided + own.count.open;
  return (
    <div className={styles.middle}>
      <div className={styles.tools}>
        <h2>
          <span className="mono">{file.path}</span>{' '}
          <span className="quiet">
            as {KIND_WORDS[own.kind]}
            {own.key && `, by ${own.key.join(' and ')}`}
          </span>
        </h2>
        <Select
          size="xs"
          aria-label="Which places are shown"
          allowDeselect={false}
          data={Object.entries(SHOWN).map(([value, label]) => ({ value, label }))}
          value={shown}
          onChange={(only) => address.set({ only: only === 'all' ? undefined : (only ?? undefined), at: undefined })}
        />
      </div>
      <Differences view={view} rows={rows} selected={current && own.differences.indexOf(current)} />
      {total > all.length && (
        <p className={`quiet ${styles.group}`}>
          {count(all.length)} of {count(total)} are shown, those that both changed first.
        </p>
      )}
      {current?.by === 'conflict' && (
        <Decide
          key={JSON.stringify([file.path, current.path])}
          view={view}
          file={file.path}
          difference={current}
          at={at}
        />
      )}
    </div>
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
          <Files view={view} merged={merged} current={file?.path} />
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

function totalOf(files: readonly MergedFile[] | undefined): MergedFile['count'] {
  return (files ?? []).reduce(
    (sum, { count: one }) => ({
      clean: sum.clean + one.clean,
      decided: sum.decided + one.decided,
      open: sum.open + one.open,
    }),
    { clean: 0, decided: 0, open: 0 },
  );
}

interface OutcomeProps {
  readonly view: CarryView;
  readonly files: readonly MergedFile[] | undefined;
  readonly own: MergedFile | undefined;
  readonly at: Attempts;
}

/** What becomes of the whole mod, and what can be given on of it. */
function Outcome({ view, files, own, at }: OutcomeProps) {
  const { install } = useFrame();
  const address = useAddress();
  const { clean, decided, open } = totalOf(files);
  const isWhole =
    files !== undefined && view.missing.length === 0 && open === 0 && files.some(({ kind }) => kind !== undefined);
  const isText = isWhole && files.some(({ kind }) => kind !== undefined && kind !== 'records');
  const called = `${view.mod}-${view.version}`;
  const given: (readonly [name: string, give: () => Promise<void>])[] = isWhole
    ? [
        ['Archive', async () => saveBlob(`${called}.zip`, await packCarried(install, view, files))],
        ...(isText
          ? [
              [
                'Unified diff',
                async () => saveFile(`${called}.patch`, await patchOf(install, view, files), 'text/x-diff'),
              ] as const,
            ]
          : []),
        ...(own?.kind === 'json'
          ? [
              [
                'JSON Patch of this file',
                async () =>
                  saveFile(
                    `${own.path.split('/').at(-1)!}.patch.json`,
                    await jsonPatchOf(install, view, [own]),
                    'application/json-patch+json',
                  ),
              ] as const,
            ]
          : []),
      ]
    : [];
  return (
    <>
      <div className="label">{view.name}</div>
      <h2 className={parts.big}>
        {view.release}, carried to {view.to}
      </h2>
      <p className="quiet">
        {view.isNamed
          ? `Made for ${view.from}, as its author says.`
          : `Taken to be made for ${view.from}: nobody says.`}
      </p>
      <Figures>
        <Figure value={count(clean)} label="no conflict" color="var(--teal)" />
        <Figure value={count(decided)} label="decided" color="var(--ochre-fill)" />
        <Figure value={count(open)} label="to decide" color="var(--brick)" />
      </Figures>
      {view.builds.length > 1 && (
        <Select
          size="xs"
          label="Build that it was made for"
          allowDeselect={false}
          data={[...view.builds]}
          value={view.from}
          onChange={(from) => from !== null && address.set({ from, at: undefined })}
        />
      )}
      {view.releases.length > 1 && (
        <Select
          size="xs"
          label="Release that is carried"
          allowDeselect={false}
          data={[...view.releases]}
          value={view.release}
          onChange={(release) => release !== null && address.set({ release, from: undefined, at: undefined })}
        />
      )}
      <Section>Becomes</Section>
      <p>
        A release of your own, <span className="mono">{view.version}</span>, on the shelf. What you decide stays with
        this folder for the next patch.
      </p>
      {isWhole && (
        <>
          <Section>Proof</Section>
          <p>Each merged file was read again as what it is, and says what was decided.</p>
          <Section>Give it on</Section>
          <Buttons>
            {given.map(([name, give]) => (
              <Button key={name} size="xs" variant="default" disabled={at.busy} onClick={() => at.attempt(give)}>
                {name}
              </Button>
            ))}
          </Buttons>
        </>
      )}
    </>
  );
}

function CarryAction({
  view,
  files,
  at,
  done,
  onDone,
}: Omit<OutcomeProps, 'own'> & { done: string | undefined; onDone: (version: string) => void }) {
  const { install } = useFrame();
  const { open } = totalOf(files);
  const merged = (files ?? []).filter(({ kind }) => kind !== undefined).length;
  const isUnchanged = view.files.every(({ state }) => state !== 'changed');
  const last = done ?? view.carried.at(-1);
  return (
    <>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      {last !== undefined && (
        <Notice tone="right">
          {view.name} {last} is on the shelf.{' '}
          <Link className="link" to={`/${install.id}/mend?build=${encodeURIComponent(view.to)}&mod=${view.mod}`}>
            Take its step in Mend
          </Link>
        </Notice>
      )}
      {open > 0 && <p className="quiet">{counted(open, 'place')} to decide.</p>}
      {isUnchanged && <p className="quiet">The patch changed no file that this mod is made from.</p>}
      {view.canKeep ? (
        <Button
          loading={at.busy}
          disabled={open > 0 || merged === 0 || view.missing.length > 0}
          onClick={() => at.attempt(async () => onDone(await carryForward(install.id, view, files!)))}
        >
          {merged === 0 ? 'Carry forward' : `Carry ${counted(merged, 'file')} forward`}
        </Button>
      ) : (
        <p className="quiet">This folder can only be looked at from here.</p>
      )}
    </>
  );
}
