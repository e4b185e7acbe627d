import { Button, Radio } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { isAtLeast, type Said, type WorkItem } from '#core/mend';
import { failureToWire } from '#core/failure';
import { modById, needsOf } from '#core/mods';
import { shortenMiddle } from '#core/text';
import { insistOn, offBench, pinMod, takeOut, undoSteps } from '~/commands';
import { bytes } from '~/parts/format';
import { authorWords, moveWords, rangeOfMod } from '~/parts/mod-names';
import { Ago, Buttons, FailureNotice, Notice, Section } from '~/parts/parts';
import { Reasons } from '~/parts/Reasons';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type MendedView, type MendView, useQuery } from '~/queries';
import type { StoredTrial } from '~/store';
import { BenchForm } from './BenchForm';
import { untilWords } from './mend-words';
import { OwnEvidence } from './OwnEvidence';
import styles from './mend.module.css';

type Names = ReadonlyMap<string, string>;

/** What comes along with a step, what stands against it, and what it leaves without what it needs. */
function Consequences({ item, names }: { item: WorkItem; names: Names }) {
  const { moves, unmet, leftWithout } = item.alone;
  const along = moves.slice(1);
  const nameOf = (id: string): string => names.get(id) ?? id;
  if (item.state === 'done') return null;
  return (
    <>
      {unmet && (
        <Notice tone="wrong">It needs {rangeOfMod(unmet, names)}, which is not to be had for this build.</Notice>
      )}
      {along.length > 0 && (
        <Notice>Along with it: {along.map((move) => moveWords(move, nameOf(move.mod))).join(', ')}.</Notice>
      )}
      {leftWithout.length > 0 && (
        <Notice>
          Until their own steps are taken, these lack what they need: {leftWithout.map(nameOf).join(', ')}.
        </Notice>
      )}
    </>
  );
}

/** Releases of a mod side by side, of which one is chosen; each with what speaks for and against it. */
function Releases({ item, view, names, at }: StepProps & { at: Attempts }) {
  const { install } = useFrame();
  const { value, failure } = useQuery('evidence', [install.id, view.to, item.mod], view.at);
  const mod = modById(view.catalogue, item.mod)!;
  const said = [...(install.insisted ?? []), ...(install.pins ?? [])].find(([id]) => id === item.mod)?.[1];
  const byVersion = new Map(mod.releases.map((release) => [release.version, release]));
  return (
    <>
      <Section>Releases at {view.to}</Section>
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      <Radio.Group
        aria-label={`Release of ${mod.name}`}
        value={said ?? ''}
        onChange={(version) =>
          at.attempt(() => {
            const counts = value?.some((one) => one.release === version && isAtLeast(one.verdict, view.level));
            const choose = counts || version === '' ? pinMod : insistOn;
            return choose(install.id, item.mod, version || undefined);
          })
        }
      >
        <Radio size="xs" value="" label="The best one for the whole set" disabled={at.busy} />
        <table className={styles.versions}>
          <thead>
            <tr>
              <th>Release</th>
              <th>Out</th>
              <th>Size</th>
              <th>Verdict</th>
            </tr>
          </thead>
          <tbody>
            {value?.map(({ release: version, note, verdict, reasons }) => {
              const release = byVersion.get(version)!;
              const needs = needsOf(release).map((some) => some.map((need) => rangeOfMod(need, names)).join(' or '));
              return (
                <tr key={version} data-here={version === item.from || undefined}>
                  <td>
                    <Radio
                      size="xs"
                      value={version}
                      disabled={at.busy}
                      label={<span className="mono">{version}</span>}
                    />
                    {version === item.from && <span className="quiet">in the folder</span>}
                  </td>
                  <td>{release.date}</td>
                  <td>{bytes(release.files.reduce((sum, { size }) => sum + size, 0))}</td>
                  <td>
                    <span className={styles.verdict} data-verdict={verdict}>
                      {verdict}
                    </span>
                    <details>
                      <summary>Why</summary>
                      <Reasons reasons={reasons} note={note} build={view.to} names={names} />
                      {needs.length > 0 && <p>Needs {needs.join(', ')}.</p>}
                      {release.unofficial !== undefined && <p>Unofficial, from {release.unofficial}.</p>}
                    </details>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </Radio.Group>
    </>
  );
}

interface StepProps {
  readonly item: WorkItem;
  readonly view: MendView;
  readonly names: Names;
}

/** What is known of a mod on the bench, and the way back. */
function OnBench({ item, view, at }: Omit<StepProps, 'names'> & { at: Attempts }) {
  const { install } = useFrame();
  const benched = view.bench.find(({ mod }) => mod === item.mod);
  if (!benched) return null;
  return (
    <Notice>
      On the bench {untilWords(benched.until)}, since <Ago at={benched.at} />
      {benched.reason !== '' && `: ${benched.reason}`}.{' '}
      <Button size="compact-xs" disabled={at.busy} onClick={() => at.attempt(() => offBench(install.id, [item.mod]))}>
        Take it off the bench
      </Button>
    </Notice>
  );
}

/** The selected mod: its step, what comes of it, its alternatives, and what was done already. */
export function StepPanel({
  item,
  view,
  names,
  busy,
  at,
  last,
  said,
  trials,
}: StepProps & {
  /** Something is under way in the folder. */
  busy: boolean;
  at: Attempts;
  /** The latest lay-down that changed this mod and still counts. */
  last: MendedView | undefined;
  said: readonly Said[];
  trials: readonly StoredTrial[];
}) {
  const { install } = useFrame();
  const [benching, setBenching] = useState(false);
  const mod = modById(view.catalogue, item.mod)!;
  const touched = view.touched.get(item.mod) ?? [];
  const isBenched = view.bench.some(({ mod: id }) => id === item.mod);
  const undone = last?.moves.filter(({ mod: id, to }) => view.here.get(id) === to) ?? [];
  const canStep = view.onDisk === view.to && !busy;
  return (
    <>
      <h2 className={styles.heading}>{mod.name}</h2>
      <p className="quiet">
        {mod.summary} {authorWords(mod)}
      </p>
      <Consequences item={item} names={names} />
      <OnBench item={item} view={view} at={at} />
      {last && undone.length > 0 && (
        <Notice tone="right">
          {undone.map((move) => moveWords(move, move.name)).join(', ')}, <Ago at={last.at} />.{' '}
          <Button
            size="compact-xs"
            variant="default"
            disabled={!canStep || at.busy}
            onClick={() => at.attempt(() => undoSteps(install.id, view.to, last))}
          >
            Undo
          </Button>
        </Notice>
      )}
      {item.to === undefined && item.from !== undefined && (
        <p>
          <Link className="link" to={`/${install.id}/carry?build=${encodeURIComponent(view.to)}&mod=${item.mod}`}>
            Carry {item.from} forward to {view.to}
          </Link>
          <span className="quiet">: its files are merged with the game’s.</span>
        </p>
      )}
      {view.undecided.has(item.mod) && (
        <Notice>
          No release of it counts at {view.to}, but one may run. Choose a release to try it, or take the mod out.
        </Notice>
      )}
      <Releases item={item} view={view} names={names} at={at} />
      {benching ? (
        <BenchForm
          mod={mod}
          runs={view.choice.runs.has(item.mod)}
          busy={at.busy}
          onClose={() => setBenching(false)}
          onBench={(wish) =>
            at.attempt(async () => {
              const isThere = item.from !== undefined && canStep;
              await takeOut(install.id, { build: view.to, mod: item.mod, isThere }, wish);
              setBenching(false);
            })
          }
        />
      ) : (
        <Buttons>
          {!isBenched && (
            <Button size="xs" variant="default" disabled={at.busy} onClick={() => setBenching(true)}>
              Take it out for now…
            </Button>
          )}
          {item.from !== undefined &&
            (item.action === 'leave' ? (
              <Button
                size="xs"
                variant="default"
                onClick={() => at.attempt(() => insistOn(install.id, item.mod, undefined))}
              >
                Do not leave it as it is
              </Button>
            ) : (
              item.state !== 'done' && (
                <Button
                  size="xs"
                  variant="default"
                  onClick={() => at.attempt(() => insistOn(install.id, item.mod, item.from))}
                >
                  Leave {item.from} as it is
                </Button>
              )
            ))}
        </Buttons>
      )}
      <OwnEvidence item={item} mod={mod} view={view} said={said} trials={trials} at={at} />
      {touched.length > 0 && (
        <>
          <Section>Changed files that it uses</Section>
          <ul className="mono">
            {touched.slice(0, MOST_NAMED).map((path) => (
              <li key={path}>{shortenMiddle(path, 36)}</li>
            ))}
          </ul>
          {touched.length > MOST_NAMED && <p className="quiet">and {touched.length - MOST_NAMED} more.</p>}
        </>
      )}
    </>
  );
}

const MOST_NAMED = 30;
