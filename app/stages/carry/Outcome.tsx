import { Button, Select } from '@mantine/core';
import { Link } from 'react-router';
import { carryForward, jsonPatchOf, packCarried, patchOf } from '~/commands';
import { count, counted } from '~/parts/format';
import { Buttons, Figure, Figures, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { saveBlob, saveFile } from '~/parts/save-file';
import { useAddress } from '~/parts/use-address';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { CarryView } from '~/queries';
import type { MergedFile } from '~/workers';
import { MadeFor } from './MadeFor';
import { Preview } from './Preview';

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
export function Outcome({ view, files, own, at }: OutcomeProps) {
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
      <Figures>
        <Figure value={count(clean)} label="no conflict" color="var(--teal)" />
        <Figure value={count(decided)} label="decided" color="var(--ochre-fill)" />
        <Figure value={count(open)} label="to decide" color="var(--brick)" />
      </Figures>
      <MadeFor view={view} at={at} />
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
          {own && own.kind !== undefined && own.kind !== 'records' && <Preview view={view} file={own} at={at} />}
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

/** What carries it, and what came of that. */
export function CarryAction({
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
