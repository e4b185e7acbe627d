import type { LogCause } from '#core/builds';

/* Logs that the demo's players hand over when they ask for help, each with one thing that went wrong. */

export interface PassedLog {
  readonly name: string;
  /** What a player writes about it. */
  readonly words: string;
  readonly cause: LogCause;
  readonly text: string;
}

const START = [
  'Ferrywake starts, build of the day 3.1.1',
  'renderer: 1920 x 1080, windowed, 4 threads',
  'sound: two channels, 48000 Hz',
  'mounting archives/part-001.fwa',
  'mounting archives/part-002.fwa',
];
const LOADER = ['Towline 2.0 attached to bin/ferrywake.prog', 'Towline: reading mods/load-order.txt'];
const LOADED = ['Painted hulls 4.4 loaded in 31 ms', 'Night sky 1.8 loaded in 12 ms', 'Wet stone 1.0 loaded in 18 ms'];
const END = ['leaving the harbour', 'the game ends'];

const log = (name: string, words: string, cause: LogCause, ...lines: readonly string[]): PassedLog => {
  const before = cause === 'loader-absent' ? START : [...START, ...LOADER];
  const all = [...before, ...LOADED, ...lines, ...END];
  const text = all.map((line, i) => `[08:1${i % 10}:${String(10 + i)}] ${line}\n`).join('');
  return { name, words, cause, text };
};

export const PASSED_LOGS: readonly PassedLog[] = [
  log(
    'ice.log',
    'It says something of winters, and stops.',
    'requirement-missing',
    'Fair tariffs: needs Ice season, which is not installed',
  ),
  log(
    'moods.log',
    'The passengers have no moods.',
    'wrong-version',
    'Passenger moods: made for version 2.9.4, this is 3.1.1',
  ),
  log(
    'quay.log',
    'Since the update nothing loads.',
    'program-unknown',
    'Towline: unknown program bin/ferrywake.prog, nothing is hooked',
  ),
  log('hulls.log', 'White hulls.', 'file-missing', 'cannot open mods/painted-hulls/more-4.4.fwm'),
  log('two skies.log', 'The stars flicker.', 'file-twice', 'Night sky and Wet stone both bring the same file'),
  log(
    'rosters.log',
    'It freezes when a crew goes home.',
    'error-in-mod',
    'mods/crew-rosters/crew-rosters-6.0.fwm: attempt to call a nil value',
  ),
  log('bare.log', 'All mods are gone?', 'list-empty', 'Towline: the load order is empty'),
  log('no towline.log', 'I did nothing.', 'loader-absent'),
];
