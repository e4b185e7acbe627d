/* The order of things that have names, which two sides put in, took out, and moved. */

const isInOrder = (some: readonly string[], all: readonly string[]): boolean => {
  const places = new Map(all.map((name, place) => [name, place]));
  let last = -1;
  for (const name of some) {
    const place = places.get(name);
    if (place === undefined) continue;
    if (place < last) return false;
    last = place;
  }
  return true;
};

const areSame = (some: readonly string[], others: readonly string[]): boolean =>
  some.length === others.length && some.every((name, i) => name === others[i]);

/**
 * The order of a merge: that of ours, or of theirs where they alone moved something. What the other side added stands behind what it
 * follows there.
 * @param stays of a name, whether it is in the merge
 */
export function mergedOrder(
  base: readonly string[],
  ours: readonly string[],
  theirs: readonly string[],
  stays: (name: string) => boolean,
): string[] {
  if (areSame(base, ours) && areSame(ours, theirs)) return ours.filter(stays);
  const theyMoved = isInOrder(base, ours) && !isInOrder(base, theirs);
  const [lead, other] = theyMoved ? [theirs, ours] : [ours, theirs];
  const kept = lead.filter(stays);
  const there = new Set(kept);
  const added = new Map<string | undefined, string[]>();
  let behind: string | undefined;
  for (const name of other) {
    if (there.has(name)) behind = name;
    else if (stays(name)) {
      const list = added.get(behind);
      if (list) list.push(name);
      else added.set(behind, [name]);
    }
  }
  const order = [...(added.get(undefined) ?? [])];
  for (const name of kept) {
    order.push(name);
    for (const one of added.get(name) ?? []) order.push(one);
  }
  return order;
}
