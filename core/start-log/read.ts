import { compile } from '#core/patterns';
import type { LogRule } from '#core/builds';
import { timeIn, type ToldTime } from './when';

/** What a game's log tells of its last start. */
export interface StartLog {
  /** Whether it came up; undefined where the log tells neither. */
  readonly outcome: 'title' | 'crash' | undefined;
  readonly version: string | undefined;
  /** The newest time that its lines tell which has come yet. */
  readonly told: ToldTime | undefined;
  /** Mods by what the log calls them, in its order; `line` is the one that tells why it was not loaded. */
  readonly mods: readonly { readonly name: string; readonly ran: boolean; readonly line: string | undefined }[];
  /** The lines that were made use of, and what stands around them at the end. */
  readonly lines: readonly { readonly level: 'note' | 'error'; readonly text: string }[];
}

/** Lines that are kept of what no pattern speaks of, from the end. */
const TAIL = 40;
const LONGEST_LINE = 1000;
const MOST_MODS = 2000;
/** A local time that is taken for one in UTC may seem to be ahead. */
const MOST_AHEAD_MS = 14 * 3_600_000;

/**
 * Reads a log by a game's rules. Where it holds several starts, one after the other, the last counts: whatever tells of mods
 * or a version before a later version line is of an earlier one.
 * @param now milliseconds since 1970; times behind it are not those of what the log tells of
 */
export function readStartLog(text: string, rule: LogRule, now: number): StartLog {
  const patterns = {
    version: rule.version === undefined ? undefined : compile(rule.version),
    up: rule.up === undefined ? undefined : compile(rule.up),
    crashed: rule.crashed === undefined ? undefined : compile(rule.crashed),
    loaded: rule.loaded === undefined ? undefined : compile(rule.loaded),
    failed: rule.failed === undefined ? undefined : compile(rule.failed),
  };
  const found = (which: keyof typeof patterns, line: string): string | undefined => {
    const matcher = patterns[which]?.matcher(line);
    if (!matcher?.find()) return undefined;
    return which === 'up' || which === 'crashed' ? line : (matcher.group(1) ?? '').trim();
  };
  const start = () => ({
    version: undefined as string | undefined,
    outcome: undefined as StartLog['outcome'],
    told: undefined as StartLog['told'],
    mods: new Map<string, StartLog['mods'][number]>(),
    lines: [] as StartLog['lines'][number][],
  });
  let current = start();
  const all = text.split(/\r?\n/);
  for (const whole of all) {
    const line = whole.slice(0, LONGEST_LINE);
    const version = found('version', line);
    if (version !== undefined && current.version !== undefined) current = start();
    if (version !== undefined) current.version = version;
    const time = timeIn(line);
    if (time && time.at <= now + MOST_AHEAD_MS && time.at >= (current.told?.at ?? 0)) current.told = time;
    const failed = found('failed', line);
    const loaded = failed === undefined ? found('loaded', line) : undefined;
    const name = failed ?? loaded;
    // What was said of a mod last counts: some are tried again.
    if (name && (current.mods.has(name) || current.mods.size < MOST_MODS))
      current.mods.set(name, { name, ran: failed === undefined, line: failed === undefined ? undefined : line });
    const crashed = found('crashed', line);
    if (crashed !== undefined) current.outcome = 'crash';
    // Whatever came up and crashed later has crashed.
    else if (current.outcome === undefined && found('up', line) !== undefined) current.outcome = 'title';
    if (failed !== undefined || crashed !== undefined) current.lines.push({ level: 'error', text: line });
  }
  const tail = all.filter((line) => line.trim() !== '').slice(-TAIL);
  return {
    outcome: current.outcome,
    version: current.version,
    told: current.told,
    mods: [...current.mods.values()],
    lines: [
      ...current.lines.slice(0, TAIL),
      ...tail.map((line) => ({ level: 'note' as const, text: line.slice(0, LONGEST_LINE) })),
    ],
  };
}
