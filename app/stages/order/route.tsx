import { autoScrollForElements } from '@atlaskit/pragmatic-drag-and-drop-auto-scroll/element';
import { Button, NumberInput } from '@mantine/core';
import { useHotkeys } from '@mantine/hooks';
import { useEffect, useRef, useState } from 'react';
import { type ClientLoaderFunctionArgs, Link, useLoaderData, useRouteError } from 'react-router';
import type { ModId } from '#core/builds';
import { movedTo, orderMods, winnerOf } from '#core/mods';
import { setOrder, writeOrder } from '~/commands';
import { isUnderWay, useLatestJob } from '~/jobs';
import { FailurePage } from '~/parts/FailurePage';
import { FilterInput } from '~/parts/FilterInput';
import { HeldFirst } from '~/parts/HeldFirst';
import { count, counted } from '~/parts/format';
import { modNames } from '~/parts/mod-names';
import { Opening } from '~/parts/Opening';
import { Buttons, Empty, Figure, Figures, Notice, Section } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { StagePage } from '~/parts/StagePage';
import { unlessOnlyLookedAt, useAddress } from '~/parts/use-address';
import { type Attempts, useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { VirtualRows } from '~/parts/VirtualRows';
import { type OrderView, query } from '~/queries';
import { keptBackBy, nameOf, type Names, sharedWith, standings } from './order-words';
import { OrderRow } from './OrderRow';
import { OrderRules, RuleForm } from './OrderRules';
import styles from './order.module.css';

export async function clientLoader({ params }: ClientLoaderFunctionArgs) {
  return { view: await query('order', params.install!) };
}
clientLoader.hydrate = true as const;

export const shouldRevalidate = unlessOnlyLookedAt;

export function HydrateFallback() {
  return <Opening what="the load order" />;
}

export function ErrorBoundary() {
  return <FailurePage error={useRouteError()} />;
}

const ROW = 32;

/** The order as it is being changed, and what keeps mods where they are. */
interface Moving {
  readonly order: readonly ModId[];
  readonly keptBack: string | undefined;
  /** What was done last, for who does not see it. */
  readonly told: string;
  readonly move: (mod: ModId, place: number) => void;
}

/** Moves are seen at once and kept behind it; what was kept meanwhile comes with the next view. */
function useMoving(view: OrderView, names: Names, at: Attempts): Moving {
  const { install } = useFrame();
  const [moved, setMoved] = useState<{ readonly order: readonly ModId[]; readonly keptAt?: number }>();
  const [keptBack, setKeptBack] = useState<string>();
  const [told, setTold] = useState('');
  // Until a view has come that was begun after the move was kept, the move counts: another one may follow at once.
  const order = moved && (moved.keptAt === undefined || view.at <= moved.keptAt) ? moved.order : view.order;
  return {
    order,
    keptBack,
    told,
    move: (mod, place) => {
      const to = Math.max(0, Math.min(order.length - 1, place));
      const wished = movedTo(order, mod, to);
      const settled = orderMods(view.catalogue, view.releases, wished, view.rules);
      setKeptBack(keptBackBy(wished, settled, names));
      const is = settled.order.indexOf(mod) + 1;
      setTold(`${nameOf(names, mod)} is number ${is} of ${order.length}.`);
      if (settled.order.every((id, i) => order[i] === id)) return;
      setMoved({ order: settled.order });
      at.attempt(async () => {
        try {
          await setOrder(install.id, settled.order);
          setMoved((now) => (now?.order === settled.order ? { ...now, keptAt: Date.now() } : now));
        } catch (failure) {
          setMoved(undefined);
          throw failure;
        }
      });
    },
  };
}

export default function LoadOrderPage() {
  const { view } = useLoaderData<typeof clientLoader>();
  const { install } = useFrame();
  if (view.order.length === 0) {
    return (
      <StagePage
        title="Load order"
        middle={
          <Empty
            title="No mods to put in order yet"
            action={
              <Button component={Link} to={`/${install.id}/mods`}>
                Add mods
              </Button>
            }
          >
            The mods of the folder, or those that a build was chosen with, are put in order here.
          </Empty>
        }
        right={null}
      />
    );
  }
  return <Ordering view={view} />;
}

function Ordering({ view }: { view: OrderView }) {
  const { install, held } = useFrame();
  const address = useAddress();
  const names = modNames(view.catalogue);
  const at = useAttempt();
  const job = useLatestJob(install.id, 'fetch', 'assemble');
  const busy = (job !== undefined && isUnderWay(job)) || held !== undefined;
  const moving = useMoving(view, names, at);
  const { order } = moving;
  const selected = order.find((id) => id === address.get('mod'));
  const words = (address.get('filter') ?? '').trim().toLowerCase();
  const shown = order.filter((id) => nameOf(names, id).toLowerCase().includes(words));
  const standing = standings(view.contests, order);
  const shared = selected === undefined ? undefined : sharedWith(selected, view.contests, order);
  const scrolled = useRef<HTMLDivElement>(null);
  const place = selected === undefined ? -1 : order.indexOf(selected);
  const moveBy = (by: number): void => {
    if (selected !== undefined && !busy) moving.move(selected, place + by);
  };
  useHotkeys([
    ['alt+ArrowUp', () => moveBy(-1)],
    ['alt+ArrowDown', () => moveBy(1)],
    ['alt+Home', () => moveBy(-order.length)],
    ['alt+End', () => moveBy(order.length)],
  ]);
  useEffect(() => {
    const element = scrolled.current?.querySelector<HTMLElement>('[role="region"]');
    return element ? autoScrollForElements({ element }) : undefined;
  }, []);
  return (
    <StagePage
      title="Load order"
      left={
        <>
          <OrderRules view={view} names={names} at={at} />
          {view.strangers.length > 0 && (
            <>
              <h2 className={`label ${parts.heading}`}>Not known</h2>
              <p className="quiet" style={{ padding: '0 16px' }}>
                {view.strangers.length === 1
                  ? '1 entry of the list is of no known mod and stays where it is: '
                  : `${count(view.strangers.length)} entries of the list are of no known mod and stay where they are: `}
                {view.strangers.slice(0, MOST_STRANGERS).join(', ')}
                {view.strangers.length > MOST_STRANGERS && ' and others'}.
              </p>
            </>
          )}
        </>
      }
      middle={
        <div className={styles.middle} ref={scrolled}>
          <div className={styles.tools}>
            <FilterInput name="filter" label="Filter mods by name" placeholder="Filter mods" width={150} />
            <span className="quiet">
              {shown.length === order.length
                ? `${counted(order.length, 'mod')}, loaded from top to bottom: the lowest copy of a file counts`
                : `${count(shown.length)} of ${counted(order.length, 'mod')}`}
            </span>
          </div>
          <VirtualRows
            label="Mods in load order"
            length={shown.length}
            height={ROW}
            {...(selected !== undefined && { shown: shown.indexOf(selected) })}
            row={(i) => {
              const mod = shown[i]!;
              const common = shared?.get(mod);
              return (
                <OrderRow
                  key={mod}
                  mod={mod}
                  place={order.indexOf(mod)}
                  name={nameOf(names, mod)}
                  release={view.releases.get(mod) ?? ''}
                  standing={standing.get(mod)}
                  shared={common && { ...common, of: nameOf(names, selected!) }}
                  current={mod === selected}
                  canMove={!busy}
                  onDrop={(dropped, where) => {
                    const rest = order.filter((id) => id !== dropped);
                    moving.move(dropped, rest.indexOf(mod) + (where === 'behind' ? 1 : 0));
                  }}
                />
              );
            }}
          />
          <p className="unseen" role="status">
            {moving.told}
          </p>
        </div>
      }
      right={
        <>
          {moving.keptBack !== undefined && <Notice>Not moved that far: {moving.keptBack}</Notice>}
          {selected === undefined ? (
            <Overview view={view} order={order} />
          ) : (
            <ModPlace key={selected} mod={selected} view={view} names={names} busy={busy} at={at} moving={moving} />
          )}
        </>
      }
      action={<OrderAction view={view} at={at} busy={busy} />}
    />
  );
}

const MOST_STRANGERS = 20;

function Overview({ view, order }: { view: OrderView; order: readonly ModId[] }) {
  const between = view.contests.filter(({ mods }) => mods.length > 1).length;
  const overGame = view.contests.filter(({ isVanilla }) => isVanilla).length;
  return (
    <>
      <div className="label">{view.isInFolder ? 'Mods in the folder' : 'Mods of the target'}</div>
      <h2 className={parts.big}>{counted(order.length, 'mod')}</h2>
      <Figures>
        <Figure
          value={count(between)}
          label={between === 1 ? 'file of several mods' : 'files of several mods'}
          color="var(--ochre-fill)"
        />
        <Figure value={count(overGame)} label="over the game’s" color="var(--blue)" />
        <Figure value={count(view.rules.length)} label="rules" color="var(--teal)" />
      </Figures>
      <p className="quiet">
        Drag a mod to another place, or select it and press Alt and an arrow key. What another mod needs stays before
        it.
      </p>
    </>
  );
}

/** The selected mod: its place, who has the files that it shares, and rules for it. */
function ModPlace({
  mod,
  view,
  names,
  busy,
  at,
  moving,
}: {
  mod: ModId;
  view: OrderView;
  names: Names;
  busy: boolean;
  at: Attempts;
  moving: Moving;
}) {
  const { order, move } = moving;
  const [isRuling, setRuling] = useState(false);
  const place = order.indexOf(mod);
  const contests = view.contests.filter(({ mods }) => mods.includes(mod));
  return (
    <>
      <div className="label">
        Number {place + 1} of {count(order.length)}
      </div>
      <h2 className={parts.big}>{nameOf(names, mod)}</h2>
      <div className={styles.moves}>
        <Button size="xs" variant="default" disabled={busy || place === 0} onClick={() => move(mod, place - 1)}>
          Up
        </Button>
        <Button
          size="xs"
          variant="default"
          disabled={busy || place === order.length - 1}
          onClick={() => move(mod, place + 1)}
        >
          Down
        </Button>
        <NumberInput
          key={place}
          size="xs"
          w={80}
          aria-label="Number in the order"
          min={1}
          max={order.length}
          disabled={busy}
          defaultValue={place + 1}
          onBlur={({ currentTarget: { value } }) => {
            if (Number(value) >= 1 && Number(value) !== place + 1) move(mod, Number(value) - 1);
          }}
          onKeyDown={({ key, currentTarget }) => key === 'Enter' && currentTarget.blur()}
        />
      </div>
      {isRuling ? (
        <RuleForm mod={mod} view={view} names={names} at={at} onClose={() => setRuling(false)} />
      ) : (
        <Button size="xs" variant="default" disabled={busy} onClick={() => setRuling(true)}>
          Add a rule…
        </Button>
      )}
      <Section>Files that others have too</Section>
      {contests.length === 0 ? (
        <p className="quiet">None: wherever it stands, all its files count.</p>
      ) : (
        <div className={styles.files}>
          <table className={parts.table}>
            <thead>
              <tr>
                <th>File</th>
                <th>Counts</th>
              </tr>
            </thead>
            <tbody>
              {contests.slice(0, MOST_FILES).map((contest) => {
                const winner = winnerOf(contest, order);
                return (
                  <tr key={contest.path}>
                    <td className="mono">{contest.path}</td>
                    <td>
                      {winner === mod ? <strong>this mod’s</strong> : nameOf(names, winner)}
                      {contest.isVanilla && <div className="quiet">over the game’s</div>}
                    </td>
                  </tr>
                );
              })}
            </tbody>
          </table>
          {contests.length > MOST_FILES && <p className="quiet">and {count(contests.length - MOST_FILES)} more.</p>}
        </div>
      )}
    </>
  );
}

const MOST_FILES = 200;

function OrderAction({ view, at, busy }: { view: OrderView; at: Attempts; busy: boolean }) {
  const { install } = useFrame();
  const isLaid = view.isListed && view.toLay.length === 0;
  return (
    <>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      <HeldFirst why="to change the order" />
      {view.listPath === undefined ? (
        <p className="quiet">
          The rules of the game name no list of mods. The order still says whose copy of a file is laid down.
        </p>
      ) : view.isInFolder && isLaid ? (
        <p className="quiet">
          <span className="mono">{view.listPath}</span> has this order.
        </p>
      ) : (
        view.wasEmptied && (
          <Notice>The list was emptied, by an update most likely. This is the order that it had.</Notice>
        )
      )}
      <Buttons>
        {view.isInFolder && !isLaid && (
          <Button
            disabled={busy || at.busy || view.onDisk === undefined}
            onClick={() => at.attempt(() => writeOrder(install.id, view.onDisk!, view.toLay))}
          >
            {view.isListed
              ? `Lay down ${counted(view.toLay.length, 'file')} by this order`
              : 'Write this order into the list'}
          </Button>
        )}
        {install.order && (
          <Button
            variant="default"
            disabled={busy || at.busy}
            onClick={() => at.attempt(() => setOrder(install.id, undefined))}
          >
            Back to the list’s order
          </Button>
        )}
      </Buttons>
    </>
  );
}
