import { SegmentedControl, TextInput } from '@mantine/core';
import { useMemo } from 'react';
import { type ClientLoaderFunctionArgs, useLoaderData, useRouteError } from 'react-router';
import { useFrame } from '~/frame/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted, shortened } from '~/parts/format';
import { modNames } from '~/parts/mod-names';
import { Ago, Empty, Figure, Figures, ItemLink, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { reckon } from '~/reckoning/client';
import type { SurveyedFile, SurveyView } from '~/reckoning/views';
import { getInstall, getLook } from '~/store/installs';
import type { StoredLook } from '~/store/records';
import { Export } from './Export';
import { FileList } from './FileList';
import { FolderMap } from './FolderMap';
import { LookButtons } from './looking';
import { mixedWords } from './mixed-words';
import { LookedAt, LookWords } from './QuickLook';
import { strayWords } from '~/parts/stray-words';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  const [view, look] = await Promise.all([
    reckon('survey', params.install!),
    getInstall(params.install!).then((install) => getLook(install)),
  ]);
  // A look from before the full check has nothing to add to it.
  return { view, look: look && (!view || look.at > view.at) ? look : undefined };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <p style={{ padding: 24 }}>Opening Survey</p>;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

export default function Survey() {
  const { view, look } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  if (view) return <Surveyed view={view} look={look} />;
  if (look) return <LookedAt look={look} />;
  return (
    <StagePage
      title="Survey"
      middle={
        <Empty title="Nobody has looked at this folder yet" action={<LookButtons />}>
          {install.place.kind === 'browser-disk' && `${install.title} updated itself. `}A quick look reads names, sizes
          and the few files that tell the known builds apart. The full check hashes every file: what is right, altered,
          absent, and whose the strays are. Nothing is changed.
        </Empty>
      }
      right={<p className="quiet">What is on disk is told here, depot by depot, once the folder was looked at.</p>}
    />
  );
}

const STATES = ['true', 'altered', 'absent', 'stray'] as const;

function countOf(files: readonly SurveyedFile[], state: string): number {
  return files.filter((file) => file.state === state).length;
}

function Surveyed({ view, look }: { view: SurveyView; look: StoredLook | undefined }) {
  const address = useAddress();
  const { install } = useFrame();
  const state = address.get('state') ?? 'all';
  const folder = address.get('folder');
  const words = address.get('find') ?? '';
  const shown = useMemo(
    () =>
      view.files.filter(
        (file) =>
          (state === 'all' || file.state === state) &&
          (folder === undefined || file.path.startsWith(folder === '.' ? '' : `${folder}/`)) &&
          file.path.toLowerCase().includes(words.toLowerCase()),
      ),
    [view, state, folder, words],
  );
  const selected = view.files.find(({ path }) => path === address.get('file'));
  return (
    <StagePage
      title="Survey"
      left={
        <>
          <div className={`label ${parts.heading}`}>Depots on disk</div>
          {view.depots.map((depot) => (
            <div key={depot.depot} className={parts.item}>
              <span className="mono quiet">{depot.order}</span>
              <span className={parts.grow}>
                {depot.title}
                <div className="quiet">
                  {depot.total === 0
                    ? 'no file of it is right'
                    : `${count(depot.found)} of ${count(depot.total)} files right`}
                </div>
              </span>
              <span className="mono">
                {depot.builds.includes(view.likeliest!) ? view.likeliest : depot.builds.at(-1)}
              </span>
            </div>
          ))}
        </>
      }
      middle={
        <>
          <FolderMap files={view.files} folder={folder} />
          <div style={{ display: 'flex', gap: 8, padding: '8px 12px' }}>
            <TextInput
              data-filter
              aria-label="Filter by path"
              placeholder="Filter by path"
              value={words}
              onChange={(event) => address.set({ find: event.currentTarget.value })}
            />
            <SegmentedControl
              size="xs"
              aria-label="Show files that are"
              value={state}
              onChange={(value) => address.set({ state: value === 'all' ? undefined : value })}
              data={['all', ...STATES].map((value) => ({ value, label: value }))}
            />
            <span className="quiet" style={{ alignSelf: 'center' }}>
              {counted(shown.length, 'file')}
            </span>
            <Export install={install} shown={shown} names={modNames(view.catalogue)} />
          </div>
          <FileList files={shown} names={modNames(view.catalogue)} />
        </>
      }
      right={selected ? <FileDetails file={selected} view={view} /> : <Summary view={view} />}
      action={
        <>
          {look && <LookWords look={look} />}
          <LookButtons />
        </>
      }
    />
  );
}

function Summary({ view }: { view: SurveyView }) {
  const address = useAddress();
  const names = modNames(view.catalogue);
  const groups = new Map<string, { files: number; bytes: number }>();
  for (const { name, size } of view.files) {
    if (!name) continue;
    const words = name.kind === 'mod' ? 'Parts of mods' : strayWords(name, names);
    const sum = groups.get(words) ?? { files: 0, bytes: 0 };
    groups.set(words, { files: sum.files + 1, bytes: sum.bytes + size });
  }
  const misplaced = view.installed.filter(({ files }) => files.some(({ path, place }) => path !== place));
  const twice = view.installed.filter(({ alsoHere }) => alsoHere.length > 0);
  const title = (id: string): string => names.get(id) ?? id;
  return (
    <>
      <div className="label">On disk</div>
      <h2 className={parts.big}>{view.likeliest ?? 'No known build'}</h2>
      <div className="quiet">
        {counted(view.files.length, 'file')}, looked at <Ago at={view.at} />
      </div>
      {!view.fresh && <Notice>Something changed the folder since. Survey it again.</Notice>}
      {view.mixed.map((mixed) => (
        <Notice key={mixedWords(mixed, view.depots)}>{mixedWords(mixed, view.depots)}</Notice>
      ))}
      <Figures>
        <Figure value={count(countOf(view.files, 'true'))} label="true" color="var(--teal)" />
        <Figure value={count(countOf(view.files, 'altered'))} label="altered" color="var(--ochre-fill)" />
        <Figure value={count(countOf(view.files, 'absent'))} label="absent" color="var(--brick)" />
        <Figure value={count(countOf(view.files, 'stray'))} label="stray" color="var(--blue)" />
      </Figures>
      <Section>Whose the others are</Section>
      <Pairs rows={[...groups].map(([name, sum]) => ({ name, value: `${count(sum.files)} · ${bytes(sum.bytes)}` }))} />
      <CleaningPairs cleaning={view.cleaning} />
      {misplaced.map(({ mod, files }) => (
        <Notice key={mod}>
          {title(mod)} was unpacked in the wrong place: {files[0]!.path}
        </Notice>
      ))}
      {twice.map(({ mod, release, alsoHere }) => (
        <Notice key={mod}>
          {title(mod)} {release} lies beside files of {alsoHere.join(', ')}
        </Notice>
      ))}
      {view.unreadable.map((path) => (
        <Notice key={path} tone="wrong">
          {path} could not be read
        </Notice>
      ))}
      <Section>See only</Section>
      {STATES.filter((state) => state !== 'true').map((state) => (
        <ItemLink key={state} to={address.with({ state })} current={address.get('state') === state}>
          {counted(countOf(view.files, state), `${state} file`)}
        </ItemLink>
      ))}
    </>
  );
}

function CleaningPairs({ cleaning }: { cleaning: SurveyView['cleaning'] }) {
  const rows = [
    ['To set aside', cleaning.setAside],
    ['To move back', cleaning.moveBack],
    ['To fetch', cleaning.fetch],
  ] as const;
  return (
    <>
      <Section>To be clean</Section>
      {rows.every(([, { files }]) => files === 0) ? (
        <p className="quiet">Nothing: each file is of the build, of a mod, or yours.</p>
      ) : (
        <Pairs
          rows={rows.map(([name, { files, bytes: size }]) => ({ name, value: `${count(files)} · ${bytes(size)}` }))}
        />
      )}
    </>
  );
}

function FileDetails({ file, view }: { file: SurveyedFile; view: SurveyView }) {
  const address = useAddress();
  return (
    <>
      <div className="label">{file.state}</div>
      <h2 style={{ fontSize: 16, overflowWrap: 'anywhere' }} title={file.path}>
        {shortened(file.path, 80)}
      </h2>
      <Pairs
        rows={[
          { name: 'Size', value: bytes(file.size) },
          { name: 'Depot', value: view.depots.find(({ depot }) => depot === file.depot)?.title ?? 'none' },
          ...(file.name ? [{ name: 'Its bytes are', value: strayWords(file.name, modNames(view.catalogue)) }] : []),
        ]}
      />
      <ItemLink to={address.with({ file: undefined })} current={false}>
        Back to the whole folder
      </ItemLink>
    </>
  );
}
