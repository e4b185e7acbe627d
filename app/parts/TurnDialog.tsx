import { Checkbox, SegmentedControl } from '@mantine/core';
import { useState } from 'react';
import type { Spoiled, Whose } from '#core/changes';
import { type PartingView, type TurnAhead, turnChanges } from '~/commands';
import { AskDialog } from './AskDialog';
import { count, counted } from './format';
import { KIND_NAMES } from './own-words';
import { Notice, Section } from './parts';
import styles from './parts.module.css';

/** Rows that are shown of a list; what is decided for all counts for the rest. */
const MOST_SHOWN = 300;

/** The path as a person knows it: in the game's folder, or in one beside it. */
const shownPath = (path: string): string => path.replace(/^(?:trees\/[^/]+|beside\/[^/]+)\//, '');

const choiceNames = (way: TurnAhead['way']): Record<Whose, string> => ({
  theirs: 'What lies there now',
  ours: way === 'back' ? 'What lay there before' : 'What the change puts there',
});

/** Whether a file comes along unless a person says otherwise. */
function comesAlong({ kind, coming, leaving }: PartingView, way: TurnAhead['way']): boolean {
  if (!leaving) return false;
  // What was played since is the player's; taken back, all is to be as it was then.
  if (kind !== undefined) return way === 'on';
  return coming === undefined;
}

function partingWords({ leaving, coming }: PartingView): string {
  if (!leaving) return 'only in the folder that comes';
  return coming ? 'in both, not the same' : 'only in the folder that goes';
}

/** Says what is otherwise in the folder that comes than when it was put aside. */
function SpoiledNotice({ spoiled: { gone, changed } }: { spoiled: Spoiled }) {
  const all = [...gone, ...changed];
  const what = [
    gone.length > 0 && `${counted(gone.length, 'file')} ${gone.length === 1 ? 'is' : 'are'} gone from it`,
    changed.length > 0 && `${counted(changed.length, 'file')} ${changed.length === 1 ? 'was' : 'were'} changed in it`,
  ];
  return (
    <Notice tone="wrong">
      Somebody has touched the folder that comes back since it was put aside: {what.filter(Boolean).join(', and ')} (
      {all.slice(0, 3).join(', ')}
      {all.length > 3 && ', …'}). It comes as it lies there now, and is no longer what it was.
    </Notice>
  );
}

/** Says what turning changes comes upon, and has it decided file by file. */
export function TurnDialog({ ahead, install, onClose }: { ahead: TurnAhead; install: string; onClose: () => void }) {
  const { met, partings, way, spoiled } = ahead;
  const names = choiceNames(way);
  const [whose, setWhose] = useState<ReadonlyMap<string, Whose>>(new Map());
  const [usual, setUsual] = useState<Whose>('theirs');
  const [along, setAlong] = useState<ReadonlySet<string>>(
    () => new Set(partings.filter((one) => comesAlong(one, way)).map(({ path }) => path)),
  );
  const goes = partings.filter(({ leaving }) => leaving !== undefined);
  const hasOwn = partings.some(({ kind }) => kind !== undefined);
  const theirs = new Set(met.flatMap(({ path }) => ((whose.get(path) ?? usual) === 'theirs' ? [path] : [])));
  const toggle = (path: string, is: boolean): void =>
    setAlong((now) => new Set(is ? [...now, path] : [...now].filter((one) => one !== path)));
  return (
    <AskDialog
      title={way === 'back' ? 'Before it is taken back' : 'Before it is made again'}
      act={way === 'back' ? 'Take it back' : 'Make it again'}
      onAct={() => turnChanges(install, ahead, theirs, [...along])}
      onClose={onClose}
    >
      {spoiled && <SpoiledNotice spoiled={spoiled} />}
      {met.length > 0 && (
        <>
          <Section>{counted(met.length, 'file')} that others have changed since</Section>
          <p>Decide what is to lie there afterwards. Whatever goes from its place is kept with the change.</p>
          {met.length > 1 && (
            <SegmentedControl
              size="xs"
              aria-label="For all of them"
              value={usual}
              onChange={(value) => {
                setUsual(value as Whose);
                setWhose(new Map());
              }}
              data={[
                { value: 'theirs', label: `${names.theirs}, for all` },
                { value: 'ours', label: `${names.ours}, for all` },
              ]}
            />
          )}
          <ul className={styles.asked} aria-label="Files changed by others">
            {met.slice(0, MOST_SHOWN).map((one) => (
              <li key={one.path}>
                <span className="mono">{shownPath(one.path)}</span>
                {one.choices.length > 1 ? (
                  <SegmentedControl
                    size="xs"
                    aria-label={shownPath(one.path)}
                    value={whose.get(one.path) ?? usual}
                    onChange={(value) => setWhose((now) => new Map([...now, [one.path, value as Whose]]))}
                    data={[
                      { value: 'theirs', label: one.found === null ? 'Nothing, as now' : names.theirs },
                      { value: 'ours', label: names.ours },
                    ]}
                  />
                ) : (
                  <span className="quiet">stays as it is: what the change kept of it is gone</span>
                )}
              </li>
            ))}
          </ul>
          {met.length > MOST_SHOWN && <p className="quiet">And {count(met.length - MOST_SHOWN)} more, as for all.</p>}
        </>
      )}
      {partings.length > 0 && (
        <>
          <Section>Your files in the two folders</Section>
          <p>
            The folders are swapped.{' '}
            {hasOwn &&
              (way === 'back'
                ? 'Saves and settings are again as they were then, but for those that you tick; a keepsake has all of them as they are now. '
                : '')}
            {goes.length > 0 &&
              'Ticked files come along. The others stay in the folder that is put aside: before that is deleted, they are named.'}
          </p>
          <ul className={styles.asked} aria-label="Your files in the two folders">
            {partings.slice(0, MOST_SHOWN).map((one) => (
              <li key={one.path}>
                {one.leaving ? (
                  <Checkbox
                    size="xs"
                    label={<span className="mono">{one.path}</span>}
                    checked={along.has(one.path)}
                    onChange={({ currentTarget }) => toggle(one.path, currentTarget.checked)}
                  />
                ) : (
                  <span className="mono">{one.path}</span>
                )}
                <span className="quiet">
                  {one.kind === undefined ? '' : `${KIND_NAMES[one.kind]} · `}
                  {partingWords(one)}
                </span>
              </li>
            ))}
          </ul>
          {partings.length > MOST_SHOWN && (
            <p className="quiet">
              And {count(partings.length - MOST_SHOWN)} more, of which{' '}
              {count(partings.slice(MOST_SHOWN).filter(({ path }) => along.has(path)).length)} come along.
            </p>
          )}
        </>
      )}
    </AskDialog>
  );
}
