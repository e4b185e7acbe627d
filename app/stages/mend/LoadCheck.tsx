import { Button, Modal } from '@mantine/core';
import { useState } from 'react';
import type { ModId } from '#core/builds';
import { type Mod, modById } from '#core/mods';
import { noteTried } from '~/commands';
import { counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { MendView } from '~/queries';
import type { StoredTrial } from '~/store';

/** Where one sees whether a mod of a kind is loaded. */
const LOOK_FOR: Record<Mod['kind'], string> = {
  loader: 'other mods are loaded, or its own log is new',
  library: 'the mods that need it work',
  native: 'what it changes in play',
  script: 'what it changes in play',
  data: 'its figures and names in the game',
  menu: 'its pages in the menus',
  texture: 'its look on screen',
  sound: 'its sound',
};

/** A list of the mods in the folder to tick while playing; ticks are kept as trials, and compared with what the log says. */
export function LoadCheck({
  view,
  trials,
  at,
  onClose,
}: {
  view: MendView;
  trials: readonly StoredTrial[];
  at: Attempts;
  onClose: () => void;
}) {
  const { install } = useFrame();
  const [ticked, setTicked] = useState<ReadonlySet<ModId>>(new Set());
  const build = view.onDisk;
  const start = trials.findLast(({ answer }) => !answer.told && answer.version === build);
  const log = start && new Map(start.answer.mods.map(({ mod, ran }) => [mod, ran]));
  const seen = new Set(
    trials.flatMap(({ answer: { told, version, mods } }) =>
      told && version === build
        ? mods.flatMap(({ mod, release, ran }) => (ran && view.here.get(mod) === release ? [mod] : []))
        : [],
    ),
  );
  const unlogged = log ? [...view.here.keys()].filter((mod) => !log.has(mod)) : [];
  const nameOf = (id: ModId): string => modById(view.catalogue, id)?.name ?? id;
  const tick = (mod: ModId, isTicked: boolean): void =>
    setTicked((before) => new Set(isTicked ? [...before, mod] : [...before].filter((one) => one !== mod)));
  return (
    <Modal
      opened
      size="lg"
      onClose={onClose}
      title={`Which mods load on ${build ?? 'this build'}`}
      closeButtonProps={{ 'aria-label': 'Close the checklist' }}
    >
      <p className="quiet">
        Start the game, look for each mod, and tick what you see. A tick counts as a trial of that release on this
        build.
      </p>
      {log === undefined ? (
        <p className="quiet">No log of a start on this build was read yet.</p>
      ) : (
        unlogged.length > 0 && (
          <Notice>In the folder, but not in the last start’s log: {unlogged.map(nameOf).join(', ')}.</Notice>
        )
      )}
      <table className={parts.table}>
        <thead>
          <tr>
            <th>Seen</th>
            <th>Mod</th>
            <th>Look for</th>
            <th>Log</th>
          </tr>
        </thead>
        <tbody>
          {[...view.here].map(([mod, release]) => {
            const ran = log?.get(mod);
            const known = modById(view.catalogue, mod);
            return (
              <tr key={mod}>
                <td>
                  <input
                    type="checkbox"
                    aria-label={`${nameOf(mod)} seen`}
                    disabled={seen.has(mod)}
                    checked={seen.has(mod) || ticked.has(mod)}
                    onChange={({ currentTarget: { checked } }) => tick(mod, checked)}
                  />
                </td>
                <td>
                  {nameOf(mod)} <span className="mono quiet">{release}</span>
                </td>
                <td>{known && LOOK_FOR[known.kind]}</td>
                <td>{log === undefined ? '–' : ran === undefined ? 'not in it' : ran ? 'loaded' : 'failed'}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <Buttons>
        <Button
          mt={12}
          disabled={ticked.size === 0 || build === undefined}
          loading={at.busy}
          onClick={() =>
            at.attempt(async () => {
              const mods = [...ticked].map((mod) => ({ mod, release: view.here.get(mod)!, ran: true }));
              await noteTried(install.id, build!, mods);
              onClose();
            })
          }
        >
          Keep {counted(ticked.size, 'tick')}
        </Button>
      </Buttons>
    </Modal>
  );
}
