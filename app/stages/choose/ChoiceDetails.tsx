import { Link } from 'react-router';
import { Button } from '@mantine/core';
import { memo, useMemo } from 'react';
import { type BuildLabel, moveBuild } from '#core/builds';
import type { Bar, BuildChoice, ModChange } from '#core/choose';
import { ownName } from '#core/keepsakes';
import type { Catalogue } from '#core/mods';
import { fileName } from '#core/paths';
import { useFrame } from '~/parts/use-frame';
import { EvidenceLevelSelect } from '~/parts/EvidenceLevelSelect';
import { LookLink } from '~/parts/LookLink';
import { modNames } from '~/parts/mod-names';
import { bytes, count, counted } from '~/parts/format';
import { Ago, Buttons, Figure, Figures, Notice, Pairs, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useAddress } from '~/parts/use-address';
import { type ChooseView, useQuery } from '~/queries';
import { broadcast, updateInstall } from '~/store';
import { rolledBack } from './board-rows';
import { Compare } from './Compare';
import { lossWords } from './loss-words';
import { ModDetails } from './ModDetails';
import { WhyNot } from './WhyNot';

/**
 * What a build means for the person's mods, and why. Its parts are drawn anew when something of them is new, not by every
 * click.
 */
export function ChoiceDetails({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const frame = useFrame();
  const selected = useAddress().get('mod');
  const shown = frame.builds.find(({ label }) => label === choice.build)!;
  const mod = view.catalogue.mods.find(({ id }) => id === selected);
  const weak = weaklyRunning(view, choice);
  const back = useMemo(() => rolledBack(view, choice), [view, choice]);
  return (
    <>
      <div className="label">At build</div>
      <h2 className={parts.big}>{choice.build}</h2>
      <div className="quiet">
        {shown.date}, <Ago at={Date.parse(shown.date)} />
        {shown.branches.map((name) => ` · ${name} branch`)}
      </div>
      <Figures>
        <Figure value={count(choice.running)} label="run" color="var(--teal)" />
        <Figure value={count(back.length)} label="roll back" color="var(--ochre-fill)" />
        <Figure value={count(choice.lost.size)} label="lost" color="var(--brick)" />
      </Figures>
      {mod && <ModDetails mod={mod} view={view} choice={choice} />}
      <Advice view={view} choice={choice} />
      {weak > 0 && (
        <p className="quiet">{counted(weak, 'mod runs', 'mods run')} on weaker evidence than the author’s word.</p>
      )}
      {!choice.exact && (
        <Notice>
          Search limit reached. This set is valid but not proven best: another could score up to {count(choice.gap)}{' '}
          more (must-have 1,000,000, want 1,000, spare 1).
        </Notice>
      )}
      <Saves choice={choice} view={view} />
      <SavesWithMods choice={choice} view={view} />
      {choice.mustLost > 0 && <WhyNot view={view} choice={choice} />}
      <RolledBack catalogue={view.catalogue} back={back} />
      <Lost view={view} choice={choice} />
      <Compare view={view} choice={choice} />
      <EvidenceLevelSelect level={view.level} />
      <Order choice={choice} />
    </>
  );
}

const RolledBack = memo(function RolledBack({ catalogue, back }: { catalogue: Catalogue; back: readonly ModChange[] }) {
  const names = modNames(catalogue);
  if (back.length === 0) return null;
  return (
    <>
      <Section>Roll back with the game</Section>
      <Pairs rows={back.map(({ mod, from, to }) => ({ name: names.get(mod), value: `${from} → ${to}` }))} />
    </>
  );
});

/** More are not read one below the other; the board tells of each. */
const MOST_LOST = 24;

const Lost = memo(function Lost({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const names = modNames(view.catalogue);
  if (choice.lost.size === 0) return null;
  return (
    <>
      <Section>Lost, and why</Section>
      {[...choice.lost].slice(0, MOST_LOST).map(([mod, loss]) => (
        <p key={mod}>
          <strong>{names.get(mod)}</strong> {lossWords(loss, choice.build, names)}
        </p>
      ))}
      {choice.lost.size > MOST_LOST && (
        <p className="quiet">and {count(choice.lost.size - MOST_LOST)} more. Select one on the board to see why.</p>
      )}
    </>
  );
});

/** How many of the mods that run do so by weaker evidence than their author's word. */
function weaklyRunning(view: ChooseView, choice: BuildChoice): number {
  const place = view.choices.indexOf(choice);
  const isWeak = (bar: Bar, release: string): boolean =>
    bar.release === release && bar.support === 'weaker' && bar.from <= place && place <= bar.to;
  return [...choice.runs].filter(([id, release]) => view.bars.get(id)?.some((bar) => isWeak(bar, release))).length;
}

/** Whether to take this build, and what the next best one would be. */
const Advice = memo(function Advice({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const { mods } = useFrame();
  const at = (build: BuildLabel | undefined): BuildChoice | undefined =>
    view.choices.find((one) => one.build === build);
  const best = at(view.recommended);
  if (best && best.build !== choice.build) {
    return (
      <Notice>
        <LookLink className="link" changes={{ build: best.build }}>
          {best.build}
        </LookLink>{' '}
        {best.value > choice.value ? 'runs more of your mods' : 'runs as many and is newer'}: {best.running} of{' '}
        {counted(mods, 'mod')}.
      </Notice>
    );
  }
  const second = at(view.runnerUp);
  if (!second) return null;
  const names = modNames(view.catalogue);
  const gone = [...second.lost.keys()].filter((id) => !choice.lost.has(id)).map((id) => names.get(id) ?? id);
  const [here, there] = [view.toFetch.get(choice.build), view.toFetch.get(second.build)];
  const more = here !== undefined && there !== undefined ? there - here : 0;
  return (
    <>
      <Notice tone="right">No open build runs more of your mods.</Notice>
      <Section>Runner-up {second.build}</Section>
      <p>
        {second.running} run.{' '}
        {gone.length > 0 &&
          `Loses ${gone.slice(0, 2).join(', ')}${gone.length > 2 ? ` and ${count(gone.length - 2)} more` : ''}. `}
        {more !== 0 && `${bytes(Math.abs(more))} ${more < 0 ? 'less' : 'more'} to fetch. `}
        <LookLink className="link" changes={{ with: second.build }}>
          Compare
        </LookLink>
      </p>
    </>
  );
});

/** Saves that may be too new: written by a newer build, or, where they do not say, while a newer one was out. */
const Saves = memo(function Saves({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const builds = useFrame().builds;
  const place = builds.findIndex(({ label }) => label === choice.build);
  const onDisk = builds.findIndex(({ label }) => label === view.onDisk);
  const next = builds[place + 1];
  if (onDisk < 0 || place >= onDisk || !next) return null;
  const newer = view.saves.filter(({ build }) => builds.findIndex(({ label }) => label === build) > place).length;
  const later = view.saves.filter(({ build, modified }) => !build && modified >= Date.parse(next.date)).length;
  if (newer + later === 0) return null;
  return (
    <Notice>
      {newer > 0 &&
        `${count(newer)} of ${counted(view.saves.length, 'save')} ${newer === 1 ? 'was' : 'were'} written by a newer build than ${choice.build}. `}
      {later > 0 &&
        `${count(later)} of ${counted(view.saves.length, 'save')} ${later === 1 ? 'was' : 'were'} written after ${next.label} came out, and may be too new. `}
      They are kept as they are before anything is laid down: <KeepsakesLink />.
    </Notice>
  );
});

const MOST_GONE = 3;
const MOST_SAVES = 6;

/** Mods of the folder that a choice takes away, and the saves that were written with them, as far as keepsakes tell. */
const SavesWithMods = memo(function SavesWithMods({ view, choice }: { view: ChooseView; choice: BuildChoice }) {
  const { install } = useFrame();
  const { value: all } = useQuery('savesWith', [install.id], view.at);
  const names = modNames(view.catalogue);
  const gone = new Set(view.installed.flatMap(({ mod }) => (choice.runs.has(mod) ? [] : [mod])));
  if (gone.size === 0 || !all || all.length === 0) return null;
  const withGone = all.flatMap(({ save, mods }) => {
    const lost = (mods ?? []).filter((mod) => gone.has(mod));
    return lost.length > 0 ? [{ save, lost }] : [];
  });
  const unknown = all.filter(({ mods }) => mods === undefined).length;
  if (withGone.length + unknown === 0) return null;
  const lost = [...new Set(withGone.flatMap((one) => one.lost))].map((mod) => names.get(mod) ?? mod);
  return (
    <Notice>
      {withGone.length > 0 &&
        `${count(withGone.length)} of ${counted(all.length, 'save')} ${withGone.length === 1 ? 'was' : 'were'} written with ${counted(lost.length, 'mod')} that ${lost.length === 1 ? 'goes' : 'go'}: ${lost.slice(0, MOST_GONE).join(', ')}${lost.length > MOST_GONE ? ` and ${count(lost.length - MOST_GONE)} more` : ''}. `}
      {unknown > 0 && `Of ${counted(unknown, 'save')} nobody knows with which mods. `}
      Not every save loads without its mods. They are kept first: <KeepsakesLink />. A profile can have saves of its
      own.
      {withGone.length > 0 && (
        <details>
          <summary>Which saves</summary>
          <ul>
            {withGone.slice(0, MOST_SAVES).map(({ save, lost: own }) => (
              <li key={ownName(save)}>
                {fileName(save.path)} <span className="quiet">with {count(own.length)} of them</span>
              </li>
            ))}
            {withGone.length > MOST_SAVES && <li>and {count(withGone.length - MOST_SAVES)} more</li>}
          </ul>
        </details>
      )}
    </Notice>
  );
});

function KeepsakesLink() {
  const { install } = useFrame();
  return (
    <Link className="link" to={`/${install.id}/keepsakes`}>
      open Keepsakes
    </Link>
  );
}

/** Puts right where the build stands among the others: ranges and the newest release go by that. */
const Order = memo(function Order({ choice }: { choice: BuildChoice }) {
  const { install, builds } = useFrame();
  async function put(buildOrder: readonly BuildLabel[] | undefined): Promise<void> {
    await updateInstall(install.id, ({ buildOrder: _, ...now }) => ({ ...now, ...(buildOrder && { buildOrder }) }));
    broadcast({ type: 'changed' });
  }
  const labels = builds.map(({ label }) => label);
  const move = (step: -1 | 1): void => void put(moveBuild(labels, choice.build, step));
  return (
    <>
      <h4 className="label">Position in the build order</h4>
      <Buttons>
        <Button size="xs" variant="default" disabled={labels[0] === choice.build} onClick={() => move(-1)}>
          Move earlier
        </Button>
        <Button size="xs" variant="default" disabled={labels.at(-1) === choice.build} onClick={() => move(1)}>
          Move later
        </Button>
        {install.buildOrder && (
          <Button size="xs" variant="default" onClick={() => void put(undefined)}>
            Restore the original order
          </Button>
        )}
      </Buttons>
    </>
  );
});
