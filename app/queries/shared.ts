/**
 * Properties of answers that are large and seldom new: each crosses to the page once, which then has one object for all
 * answers and need not draw anew what is made of it.
 */
const SHARED = ['catalogue', 'index', 'bars', 'installed'] as const;
type Shared = (typeof SHARED)[number];

export interface Stripped {
  /** Without the properties of `asBefore`, which are those of the latest answer that had them. */
  readonly value: unknown;
  readonly asBefore: readonly Shared[];
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && Object.getPrototypeOf(value) === Object.prototype;

/** Takes out of each answer what the other side has already. */
export function strippingSender(): (value: unknown) => Stripped {
  const sent = new Map<Shared, unknown>();
  return (value) => {
    if (!isRecord(value)) return { value, asBefore: [] };
    const asBefore = SHARED.filter((name) => value[name] !== undefined && sent.get(name) === value[name]);
    const rest = { ...value };
    for (const name of asBefore) delete rest[name];
    for (const name of SHARED) if (rest[name] !== undefined) sent.set(name, rest[name]);
    return { value: rest, asBefore };
  };
}

/** Puts into each answer what the sender took out; answers come in the order in which they were sent. */
export function restoringReceiver(): (stripped: Stripped) => unknown {
  const had = new Map<Shared, unknown>();
  return ({ value, asBefore }) => {
    if (!isRecord(value)) return value;
    for (const name of SHARED) if (value[name] !== undefined) had.set(name, value[name]);
    return { ...value, ...Object.fromEntries(asBefore.map((name) => [name, had.get(name)])) };
  };
}
