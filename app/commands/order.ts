import type { BuildLabel, ModId } from '#core/builds';
import { type OrderRule, takenOver } from '#core/mods';
import { jobs } from '~/jobs';
import { query } from '~/queries';
import { broadcast, getInstall, type Install, updateInstall } from '~/store';

/** Changes what a person says of the order, and has the target follow it, save one that a hold sheet decided. */
async function arrange(id: string, change: (now: Install) => Install): Promise<void> {
  await updateInstall(id, change);
  const { target } = await getInstall(id);
  if (target && target.decidedBy !== 'hold-sheet') {
    const order = await query('orderOf', id, target.releases);
    await updateInstall(id, (now) => (now.target === undefined ? now : { ...now, target: { ...now.target, order } }));
  }
  broadcast({ type: 'changed' });
}

/** Has mods be loaded in an order; undefined leaves it to the folder's list again. Nothing changes in the folder by that. */
export const setOrder = (id: string, order: readonly ModId[] | undefined): Promise<void> =>
  arrange(id, ({ order: before, ...now }) => {
    return order ? { ...now, order: orderWith(before, order) } : now;
  });

/** An order as it was, with these mods in their order. Others keep their places behind the ones that they stood behind. */
export const orderWith = (before: readonly ModId[] = [], order: readonly ModId[]): readonly ModId[] =>
  takenOver([...before, ...order.filter((mod) => !before.includes(mod))], order);

/** Whatever order its fields stand in: one that comes from the store has another than one that a page makes. */
const fieldsOf = (rule: OrderRule): string => JSON.stringify(Object.entries(rule).toSorted());
const sameRule = (a: OrderRule, b: OrderRule): boolean => fieldsOf(a) === fieldsOf(b);

/** Adds a rule of one's own. What was said last counts more. */
export const addOrderRule = (id: string, rule: OrderRule): Promise<void> =>
  arrange(id, (now) => ({
    ...now,
    orderRules: [rule, ...(now.orderRules ?? []).filter((other) => !sameRule(other, rule))],
  }));

export const dropOrderRule = (id: string, rule: OrderRule): Promise<void> =>
  arrange(id, (now) => ({ ...now, orderRules: (now.orderRules ?? []).filter((other) => !sameRule(other, rule)) }));

/** Writes the order into the folder's list of mods, and lays down the files that count by it. Nothing else is touched. */
export async function writeOrder(id: string, build: BuildLabel, files: readonly string[]): Promise<void> {
  const { target, paths } = await query('stepTarget', id, build, []);
  const only = paths && { only: [...paths, ...files] };
  await jobs.start('fetch', id, { target, thenLayDown: true, way: 'in-place', ...only });
}
