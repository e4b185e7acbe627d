import { Button } from '@mantine/core';
import {
  type ActionFunctionArgs,
  type ClientLoaderFunctionArgs,
  useFetcher,
  useLoaderData,
  useRouteError,
} from 'react-router';
import { z } from 'zod';
import { BuildLabelSchema, type ModId } from '#core/builds';
import type { BuildChoice } from '#core/choose';
import { type Mod, WEIGHTS } from '#core/mods';
import { useBuild, useFrame } from '~/frame/use-frame';
import { FailurePage } from '~/parts/FailurePage';
import { bytes, count, counted } from '~/parts/format';
import { Buttons, Empty, Figure, Figures, ItemLink, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { reckon } from '~/reckoning/client';
import type { ChooseView } from '~/reckoning/views';
import { broadcast } from '~/store/changes';
import { updateInstall } from '~/store/installs';
import styles from './choose.module.css';
import { lossWords } from './loss-words';
import { WhatIf } from './WhatIf';

export const clientLoader = ({ params }: ClientLoaderFunctionArgs) => reckon('choose', params.install!);
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

const TargetSchema = z.object({ build: BuildLabelSchema });

/** Records the decision: the build, with the releases that run there. */
export async function clientAction({ request, params }: ActionFunctionArgs) {
  const { build } = TargetSchema.parse(Object.fromEntries(await request.formData()));
  const { choices } = await reckon('choose', params.install!);
  const choice = choices.find((c) => c.build === build)!;
  await updateInstall(params.install!, (now) => ({
    ...now,
    target: { build, releases: [...choice.runs], decidedBy: 'choice', at: Date.now() },
  }));
  broadcast({ type: 'changed' });
  return null;
}

export function HydrateFallback() {
  return <p style={{ padding: 24 }}>Opening Choose</p>;
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

function MakeTarget({ choice, view }: { choice: BuildChoice; view: ChooseView }) {
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
}

const WEIGHT_TITLES = { must: 'Must have', want: 'Want', spare: 'Spare' } as const;

function groupsOf(mods: readonly Mod[], weights: ReadonlyMap<ModId, string>): { title: string; mods: Mod[] }[] {
  const isBase = ({ kind }: Mod): boolean => kind === 'loader' || kind === 'library';
  const mine = mods.filter(({ id }) => weights.has(id));
  return [
    { title: 'Loader and libraries', mods: mine.filter(isBase) },
    ...WEIGHTS.map((weight) => ({
      title: WEIGHT_TITLES[weight],
      mods: mine.filter((mod) => !isBase(mod) && weights.get(mod.id) === weight),
    })),
  ].filter(({ mods: inside }) => inside.length > 0);
}

/** Rows are mods, columns the builds of the build line; a bar for each release over the builds that it supports. */
function Board({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const frame = useFrame();
  const address = useAddress();
  const builds = frame.builds.map(({ label }) => label);
  const column = builds.indexOf(choice.build);
  return (
    <div className={styles.board}>
      {groupsOf(view.catalogue.mods, new Map(frame.install.weights)).map(({ title, mods }) => (
        <section key={title} aria-label={title}>
          <div className={styles.row}>
            <div className={`label ${styles.name}`}>{title}</div>
            <div className={styles.cells} />
          </div>
          {mods.map((mod) => {
            const chosen = choice.runs.get(mod.id);
            return (
              <div key={mod.id} className={styles.row}>
                <div className={styles.name}>
                  <ItemLink to={address.with({ mod: mod.id })} current={address.get('mod') === mod.id}>
                    <span className={parts.grow} style={chosen ? undefined : { color: 'var(--brick)' }}>
                      {mod.name}
                    </span>
                    <span className="mono quiet">{chosen ?? 'lost'}</span>
                  </ItemLink>
                </div>
                <div
                  className={styles.cells}
                  style={{ gridTemplateColumns: `repeat(${builds.length}, minmax(46px, 1fr))` }}
                >
                  <span className={styles.column} style={{ gridColumn: `${column + 1} / ${column + 2}` }} />
                  {mod.releases.map((release) => {
                    const places = release.builds.map((build) => builds.indexOf(build)).filter((place) => place >= 0);
                    const isChosen = release.version === chosen;
                    return (
                      <span
                        key={release.version}
                        className={styles.release}
                        data-chosen={isChosen || undefined}
                        title={`${mod.name} ${release.version}: ${release.builds.join(', ')}`}
                        style={{ gridColumn: `${Math.min(...places) + 1} / ${Math.max(...places) + 2}` }}
                      >
                        {release.version}
                      </span>
                    );
                  })}
                  {!chosen && (
                    <span
                      className={styles.lost}
                      style={{ gridColumn: column + 1 }}
                      aria-label={`lost at ${choice.build}`}
                      role="img"
                    >
                      ×
                    </span>
                  )}
                </div>
              </div>
            );
          })}
        </section>
      ))}
    </div>
  );
}

function ChoiceDetails({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const frame = useFrame();
  const address = useAddress();
  const names = new Map(view.catalogue.mods.map(({ id, name }) => [id, name]));
  const shown = frame.builds.find(({ label }) => label === choice.build)!;
  const selected = address.get('mod');
  const chosenMod = view.catalogue.mods.find(
    ({ id }) => id === selected && frame.install.weights.some(([own]) => own === id),
  );
  const lost = [...choice.lost].toSorted(([a], [b]) => Number(b === selected) - Number(a === selected));
  return (
    <>
      <div className="label">At build</div>
      <h2 className={parts.big}>{choice.build}</h2>
      <div className="quiet">
        {shown.date}
        {shown.branches.map((name) => ` · ${name} branch`)}
      </div>
      <Figures>
        <Figure value={count(choice.running)} label="run" color="var(--teal)" />
        <Figure value={count(choice.back.length)} label="roll back" color="var(--ochre-fill)" />
        <Figure value={count(choice.lost.size)} label="lost" color="var(--brick)" />
      </Figures>
      {view.recommended === choice.build ? (
        <Notice tone="right">No open build runs more of what you must have and want.</Notice>
      ) : (
        <Notice>
          {view.recommended} runs more: {frame.builds.find(({ label }) => label === view.recommended)?.running} of{' '}
          {counted(frame.mods, 'mod')}.
        </Notice>
      )}
      {!choice.exact && (
        <Notice>
          Searched as far as one waits for it: this set is valid, but not proven to be the best. A better one could be
          worth up to {count(choice.gap)} more (a must-have counts 1,000,000, a want 1,000, a spare 1).
        </Notice>
      )}
      {chosenMod && <WhatIf key={chosenMod.id} mod={chosenMod} />}
      {choice.back.length > 0 && (
        <>
          <Section>Roll back with the game</Section>
          <Pairs rows={choice.back.map(({ mod, from, to }) => ({ name: names.get(mod), value: `${from} → ${to}` }))} />
        </>
      )}
      {lost.length > 0 && (
        <>
          <Section>Lost, and why</Section>
          {lost.map(([mod, loss]) => (
            <p key={mod}>
              <strong>{names.get(mod)}</strong> {lossWords(loss, choice.build, names)}
            </p>
          ))}
        </>
      )}
    </>
  );
}
