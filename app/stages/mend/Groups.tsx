import { Button, NumberInput } from '@mantine/core';
import { useState } from 'react';
import { type StepWish, withNeeds } from '#core/mend';
import { benchMods, offBench, takeSteps } from '~/commands';
import { counted } from '~/parts/format';
import parts from '~/parts/parts.module.css';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { MendView } from '~/queries';
import { byWeight } from './filters';
import { notRunning } from './mend-words';
import styles from './mend.module.css';

const USUAL_FIRST = 8;
const USUAL_GROUP = 10;

/** A few mods first and the others on the bench; then the others back, group by group. */
export function Groups({ view, at, busy }: { view: MendView; at: Attempts; busy: boolean }) {
  const { install } = useFrame();
  const musts = [...view.weights].filter(([mod, weight]) => weight === 'must' && view.releases.has(mod)).length;
  const [first, setFirst] = useState(musts || USUAL_FIRST);
  const [size, setSize] = useState(USUAL_GROUP);
  const waiting = new Set(view.bench.flatMap(({ mod, until }) => (until?.kind === 'group' ? [mod] : [])));
  const cannot = busy || at.busy || view.onDisk !== view.to;
  const onBench = new Set(view.bench.map(({ mod }) => mod));
  const wanted = view.items.filter(({ mod, to }) => to !== undefined && view.weights.has(mod)).map(({ mod }) => mod);
  const order = byWeight(wanted, view);
  const few = withNeeds(view.catalogue, view.releases, order.slice(0, first));
  const others = view.items.map(({ mod }) => mod).filter((mod) => !few.has(mod));
  const waitingInOrder = byWeight([...waiting], view);
  const back = waitingInOrder.slice(0, size);
  const startWithFew = async (): Promise<void> => {
    // What comes in as a requirement alone does so again with those that need it.
    const wantedOthers = others.filter((mod) => view.weights.has(mod) && !onBench.has(mod));
    const runs = wantedOthers.filter((mod) => view.releases.has(mod));
    const lost = wantedOthers.filter((mod) => !view.releases.has(mod));
    await benchMods(install.id, runs, { reason: `After the first ${first}`, until: { kind: 'group' } });
    await benchMods(install.id, lost, notRunning(view.to));
    const out = others.map((mod): StepWish => ({ mod, to: null }));
    await takeSteps(install.id, view.to, [...out, ...[...few].map((mod) => ({ mod }))]);
  };
  const bringBack = async (): Promise<void> => {
    await offBench(install.id, back);
    const steps = back.map((mod): StepWish => ({ mod }));
    await takeSteps(install.id, view.to, steps);
  };
  return (
    <section aria-label="In groups" className={styles.box}>
      <h2 className={`label ${parts.heading}`}>In groups</h2>
      {waiting.size > 0 ? (
        <div className={styles.group}>
          <span>On the bench for now: {counted(waiting.size, 'mod')}.</span>
          <NumberInput
            size="xs"
            w={64}
            aria-label="Mods in a group"
            min={1}
            max={waiting.size}
            value={Math.min(size, waiting.size)}
            onChange={(value) => setSize(Number(value) || 1)}
          />
          <Button size="xs" variant="default" disabled={cannot} onClick={() => at.attempt(bringBack)}>
            Bring back the next {back.length}
          </Button>
        </div>
      ) : (
        <div className={styles.group}>
          <span>Try a few first, must-haves before others, and bring the rest back later.</span>
          <NumberInput
            size="xs"
            w={64}
            aria-label="Mods that come first"
            min={1}
            max={Math.max(1, order.length)}
            value={first}
            onChange={(value) => setFirst(Number(value) || 1)}
          />
          <Button
            size="xs"
            variant="default"
            disabled={cannot || others.length === 0}
            onClick={() => at.attempt(startWithFew)}
          >
            Only the first {Math.min(first, order.length)}
          </Button>
        </div>
      )}
    </section>
  );
}
