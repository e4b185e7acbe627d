import { compile } from '#core/patterns';
import type { LogRule } from '#core/builds';

/** What a game's log tells of its last start. */
export interface StartLog {
  /** Whether it came up; undefined where the log tells neither. */
  readonly outcome: 'title' | 'crash' | undefined;
  readonly version: string | undefined;
  /** Mods by what the log calls them, in its order; `line` is the one that tells why it was not loaded. */
  readonly mods: readonly { readonly name: string; readonly ran: boolean; readonly line: string | undefined }[];
  /** The lines that were made use of, and what stands around them at the end. */
  readonly lines: readonly { readonly level: 'note' | 'error'; readonly text: string }[];
}

/** Lines that are kept of what no pattern speaks of, from the end. */
const TAIL = 40;
const LONGEST_LINE = 1000;
const MOST_MODS = 2000;

/**
 * Reads a log by a game's rules. Where it holds several starts, one after the other, the last counts: whatever tells of mods
 * or a version before a later version line is of an earlier one.
 */
export function readStartLog(text: string, rule: LogRule): StartLog {
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
    mods: new Map<string, StartLog['mods'][number]>(),
    lines: [] as StartLog['lines'][number][],
  });
  let now = start();
  const all = text.split(/\r?\n/);
  for (const whole of all) {
    const line = whole.slice(0, LONGEST_LINE);
    const version = found('version', line);
    if (version !== undefined && now.version !== undefined) now = start();
    if (version !== undefined) now.version = version;
    const failed = found('failed', line);
    const loaded = failed === undefined ? found('loaded', line) : undefined;
    const name = failed ?? loaded;
    // What was said of a mod last counts: some are tried again.
    if (name && (now.mods.has(name) || now.mods.size < MOST_MODS))
      now.mods.set(name, { name, ran: failed === undefined, line: failed === undefined ? undefined : line });
    const crashed = found('crashed', line);
    if (crashed !== undefined) now.outcome = 'crash';
    // Whatever came up and crashed later has crashed.
    else if (now.outcome === undefined && found('up', line) !== undefined) now.outcome = 'title';
    if (failed !== undefined || crashed !== undefined) now.lines.push({ level: 'error', text: line });
  }
  const tail = all.filter((line) => line.trim() !== '').slice(-TAIL);
  return {
    outcome: now.outcome,
    version: now.version,
    mods: [...now.mods.values()],
    lines: [
      ...now.lines.slice(0, TAIL),
      ...tail.map((line) => ({ level: 'note' as const, text: line.slice(0, LONGEST_LINE) })),
    ],
  };
}
