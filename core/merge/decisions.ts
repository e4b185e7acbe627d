import type { Decide, Decision, Difference } from './difference';

/* Decisions of a person, kept for the next time that the same is asked. */

/** How a conflict is decided. `shift`: theirs, changed by as much as ours had changed the base. */
export type Choice = 'ours' | 'theirs' | 'shift' | { readonly value: string };

/** A conflict that was decided; it counts where the same three values meet in the same place. */
export interface Decided extends Partial<Pick<Difference, 'base' | 'ours' | 'theirs'>> {
  readonly file: string;
  readonly path: readonly string[];
  readonly choice: Choice;
}

/** How all conflicts of a column or name are decided, at later patches too. */
export interface DecisionRule {
  readonly file: string;
  /** The last part of their places. */
  readonly name: string;
  readonly choice: Exclude<Choice, { readonly value: string }>;
}

const NUMBER = /^-?\d+(?:\.(\d+))?$/;

/**
 * A number changed by as much as one side had changed the base, with as many decimals as the longest of them has; exact.
 * @returns undefined where one of them is no decimal number
 */
export function shifted({ base, ours, theirs }: Pick<Difference, 'base' | 'ours' | 'theirs'>): string | undefined {
  const all = [base, ours, theirs].map((value) => (value === undefined ? null : NUMBER.exec(value.trim())));
  if (all.some((one) => one === null)) return undefined;
  const places = Math.max(...all.map((one) => one![1]?.length ?? 0));
  const [was, mine, their] = all.map((one) => {
    const [whole, decimals = ''] = one![0].split('.') as [string, string?];
    return BigInt(whole + decimals.padEnd(places, '0'));
  }) as [bigint, bigint, bigint];
  const sum = their + mine - was;
  const digits = String(sum < 0n ? -sum : sum).padStart(places + 1, '0');
  const cut = digits.length - places;
  return `${sum < 0n ? '-' : ''}${digits.slice(0, cut)}${places > 0 ? `.${digits.slice(cut)}` : ''}`;
}

const told = ({ path, base, ours, theirs }: Omit<Decided, 'file' | 'choice'>): string =>
  JSON.stringify([path, base ?? null, ours ?? null, theirs ?? null]);

/** Decides as was decided before: one by one, else by the rule that fits. */
export function decideBy(file: string, decided: readonly Decided[], rules: readonly DecisionRule[]): Decide {
  const own = new Map(decided.filter((one) => one.file === file).map((one) => [told(one), one.choice]));
  const byName = new Map(rules.filter((rule) => rule.file === file).map(({ name, choice }) => [name, choice]));
  return (conflict): Decision | undefined => {
    const choice = own.get(told(conflict)) ?? byName.get(conflict.path.at(-1) ?? '');
    if (choice !== 'shift') return choice;
    const value = shifted(conflict);
    return value === undefined ? undefined : { value };
  };
}
