import { Button } from '@mantine/core';
import { useState } from 'react';
import type { ToldChange } from '#core/contents';
import { failureToWire } from '#core/failure';
import { movesOfFacts } from '#core/mend';
import { shortenMiddle } from '#core/text';
import { isPlain, lookAhead, lookAtLoss, type LossAhead, type TurnAhead, turnChanges } from '~/commands';
import { bytes, count, counted, duration } from '~/parts/format';
import { moveWords } from '~/parts/mod-names';
import { Ago, Buttons, FailureNotice, Notice, Pairs, Section } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { TurnDialog } from '~/parts/TurnDialog';
import { VirtualRows } from '~/parts/VirtualRows';
import { type ChangeDetails, useQuery } from '~/queries';
import { changeTitle } from '~/parts/change-title';
import { DID_WORDS, stateWords } from './history-words';
import styles from './history.module.css';
import { LossDialog } from './LossDialog';

const LONGEST_PATH = 30;
const FILE_HEIGHT = 20;
const MOST_IN_SIGHT = 9;

/** How many files a change did what to. Of a swap that is told by what differs between the two folders. */
function didRows({ what, counts }: ToldChange, details: ChangeDetails | undefined): { name: string; value: string }[] {
  const isOutside = what === 'outside';
  const of = (did: ChangeDetails['files'][number]['did']): number =>
    details?.files.filter((file) => file.did === did).length ?? 0;
  const { written, bytes: size, moved, flagged = 0, swapped } = counts;
  const { replaced, added, removed } = swapped
    ? { replaced: of('replaced'), added: of('added'), removed: of('removed') }
    : counts;
  const rows = [
    { name: swapped ? 'Written, then swapped' : 'Written', files: written, more: ` · ${bytes(size)}` },
    { name: isOutside ? 'Changed' : 'Replaced', files: replaced },
    { name: 'Added', files: added },
    { name: isOutside ? 'Removed' : 'Set aside', files: removed },
    { name: 'Moved', files: moved },
    { name: 'Read-only flags', files: flagged },
  ];
  return rows.flatMap(({ name, files, more = '' }) => (files > 0 ? [{ name, value: count(files) + more }] : []));
}

/** What one change did, and what taking it back or letting it go costs. */
export function ChangePanel({
  change,
  history,
  install,
}: {
  change: ToldChange;
  history: readonly ToldChange[];
  install: string;
}) {
  const { value: details, failure } = useQuery(
    'changeDetails',
    [install, change.id],
    `${change.state} ${change.keeps.bytes}`,
  );
  const { begunAt, endedAt, at } = change;
  const moves = movesOfFacts(change.facts);
  const took = begunAt !== undefined && endedAt !== undefined ? (endedAt - begunAt) / 1000 : undefined;
  return (
    <>
      <div className="label">
        <Ago at={begunAt ?? at} />
      </div>
      <h2 className={styles.heading}>{changeTitle(change)}</h2>
      <p className="quiet">
        {stateWords(change)}
        {took !== undefined && took >= 1 && ` · took ${duration(took)}`}
      </p>
      <Section>{change.state === 'taken-back' ? 'It would do' : 'It did'}</Section>
      <Pairs rows={didRows(change, details)} />
      {moves.length > 0 && (
        <>
          <Section>{counted(moves.length, 'mod')}</Section>
          <ul>
            {moves.map((move) => (
              <li key={move.mod}>{moveWords(move, move.name)}</li>
            ))}
          </ul>
        </>
      )}
      {failure !== undefined && <FailureNotice failure={failureToWire(failure)} />}
      {details && details.files.length > 0 && (
        <>
          <Section>{counted(details.files.length, 'file')}</Section>
          <div
            className={styles.files}
            style={{ height: Math.min(MOST_IN_SIGHT, details.files.length) * FILE_HEIGHT + 2 }}
          >
            <VirtualRows
              label="Files of this change"
              length={details.files.length}
              height={FILE_HEIGHT}
              row={(i) => {
                const { path, did } = details.files[i]!;
                return (
                  <div className={styles.file} title={path}>
                    <span>{shortenMiddle(path, LONGEST_PATH)}</span>
                    <span className="quiet">{DID_WORDS[did]}</span>
                  </div>
                );
              }}
            />
          </div>
        </>
      )}
      <Costs change={change} history={history} />
    </>
  );
}

const titleOf = (id: string, history: readonly ToldChange[]): string => {
  const change = history.find((one) => one.id === id);
  return change ? changeTitle(change) : id;
};

/** What turning a change that swaps no folders does. */
function turnWords({ state, counts }: ToldChange): string {
  const { replaced, added, removed, flagged = 0 } = counts;
  const isAgain = state === 'taken-back';
  const files = replaced + (isAgain ? added : removed);
  return files === 0 && flagged > 0
    ? `Sets ${counted(flagged, 'read-only flag')} ${isAgain ? 'again' : 'as before'}`
    : `${isAgain ? 'Puts' : 'Restores'} ${counted(files, 'file')}`;
}

function Costs({ change, history }: { change: ToldChange; history: readonly ToldChange[] }) {
  const { state, after, keeps, lost, counts, letGoAt, aside, elsewhere } = change;
  if (state === 'seen') return <p className="quiet">Lay the build down again, or repair it, under Assemble.</p>;
  if (letGoAt !== undefined) {
    return (
      <p className="quiet">
        What it kept was deleted <Ago at={letGoAt} />.
      </p>
    );
  }
  if (state === 'planned') return null;
  if (state === 'unfinished') {
    return (
      <Notice>
        It was begun and not finished. Continue it, or take it back: until then nothing else can be changed.
      </Notice>
    );
  }
  const turn = state === 'taken-back' ? 'Making it again' : 'Taking it back';
  const isEmpty = aside !== null && aside.files === 0 && aside.gone > 0;
  return (
    <>
      <Section>{turn}</Section>
      <p>
        {elsewhere
          ? 'Not possible now: it belongs to a folder that is put aside. Bring that folder back first.'
          : isEmpty
            ? 'Not possible: the folder that was put aside is empty.'
            : counts.swapped
              ? 'Swaps the two folders. Nothing is fetched.'
              : `${turnWords(change)}. Nothing is fetched.`}
      </p>
      {lost > 0 && (
        <p>
          {counted(lost, 'kept file')} {lost === 1 ? 'is' : 'are'} gone from the store, or changed there: what lies in{' '}
          {lost === 1 ? 'its place' : 'their places'} stays.
        </p>
      )}
      {aside !== null && aside.gone > 0 && !isEmpty && (
        <p>
          {counted(aside.gone, 'file')} of the folder that was put aside {aside.gone === 1 ? 'is' : 'are'} gone from it.
        </p>
      )}
      {after.length > 0 && (
        <p>
          {after.length === 1 ? 'A later change touches' : `${count(after.length)} later changes touch`} the same files
          and {after.length === 1 ? 'is' : 'are'} taken back first: {after.map((id) => titleOf(id, history)).join(', ')}
          .
        </p>
      )}
      {keeps.files > 0 && (
        <>
          <Section>Deleting what it keeps</Section>
          <p>
            Frees up to {bytes(keeps.bytes)}. It can then no longer be{' '}
            {state === 'taken-back' ? 'made again' : 'taken back'}.
            {aside !== null &&
              aside.others > 0 &&
              ` ${counted(aside.others, 'file')} in the folder that was put aside may be yours: each is named first.`}
          </p>
        </>
      )}
    </>
  );
}

/** Takes a change back, or makes it again, and lets it go; each after a look at what that comes upon. */
export function ChangeActions({
  change,
  history,
  install,
  busy,
}: {
  change: ToldChange;
  history: readonly ToldChange[];
  install: string;
  busy: boolean;
}) {
  const { id, state, after, keeps, elsewhere, aside } = change;
  const [ahead, setAhead] = useState<TurnAhead>();
  const [loss, setLoss] = useState<LossAhead>();
  const { attempt, busy: isLooking, failure } = useAttempt();
  const isEmpty = aside !== null && aside.files === 0 && aside.gone > 0;
  const cannot = busy || isLooking || elsewhere || isEmpty;
  if (state !== 'made' && state !== 'taken-back' && state !== 'unfinished') return null;
  const isBack = state === 'taken-back';
  const sets = [...after, id];
  const since = history.slice(0, history.indexOf(change));
  const inEffect = since.filter((one) => one.state === 'made' || one.state === 'unfinished').map((one) => one.id);
  const turn = (turned: readonly string[], way: 'on' | 'back'): void =>
    attempt(async () => {
      const comesUpon = await lookAhead(install, turned, way);
      if (isPlain(comesUpon)) await turnChanges(install, comesUpon);
      else setAhead(comesUpon);
    });
  const letGo = (): void => attempt(async () => setLoss(await lookAtLoss(install, id)));
  return (
    <>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        {(isBack || state === 'unfinished') && (
          <Button disabled={cannot || after.length > 0} onClick={() => turn([id], 'on')}>
            {isBack ? 'Make it again' : 'Continue it'}
          </Button>
        )}
        {!isBack && (
          <Button
            variant={state === 'unfinished' ? 'default' : 'filled'}
            disabled={cannot}
            onClick={() => turn(sets, 'back')}
          >
            {sets.length === 1 ? 'Take it back' : `Take back ${counted(sets.length, 'change')}`}
          </Button>
        )}
        {state === 'made' && inEffect.length > after.length && (
          <Button variant="default" disabled={cannot} onClick={() => turn([...inEffect, id], 'back')}>
            Go back to before it: take back {counted(inEffect.length + 1, 'change')}
          </Button>
        )}
        {keeps.files > 0 && state !== 'unfinished' && (
          <Button variant="default" disabled={busy || isLooking} onClick={letGo}>
            Delete what it keeps, {bytes(keeps.bytes)}
          </Button>
        )}
      </Buttons>
      {ahead && <TurnDialog ahead={ahead} install={install} onClose={() => setAhead(undefined)} />}
      {loss && (
        <LossDialog
          loss={loss}
          what={`what it keeps, ${bytes(keeps.bytes)}`}
          install={install}
          onClose={() => setLoss(undefined)}
        />
      )}
    </>
  );
}
