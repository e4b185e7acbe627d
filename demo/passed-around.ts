import { BUILDS } from './game';
import { modFile, modFileBytes, type ModFile } from './mods';

/* Archives of mods that the demo's players pass around, beside its catalogue. */

export interface PassedAround {
  readonly name: string;
  /** What a player writes about it. */
  readonly words: string;
  readonly files: (seed: number) => readonly ModFile[];
}

const text = (path: string, words: string): ModFile => ({ path, bytes: new TextEncoder().encode(words) });

const about = (id: string, name: string, version: string): string =>
  `${JSON.stringify({ id, name, version, builds: [BUILDS[7]!.label] }, null, 2)}\n`;

const known = (seed: number, id: string, version: string, path: string): ModFile => ({
  path,
  bytes: modFileBytes(seed, id, version, path),
});

const colours = (seed: number, colour: string): ModFile[] => [
  text(`${colour}/reed-colours/mod.json`, about('reed-colours', 'Reed colours', '1.0')),
  modFile(seed, `reed-colours ${colour}`, `${colour}/reed-colours/reed-colours.fwm`, 20e3, 60e3),
];

const plain = (seed: number, id: string, name: string): ModFile[] => [
  text(`mods/${id}/mod.json`, about(id, name, '1.0')),
  modFile(seed, `${id} 1.0`, `mods/${id}/${id}.fwm`, 20e3, 60e3),
];

export const PASSED_AROUND: readonly PassedAround[] = [
  {
    name: 'Free camera 0.9.1.zip',
    words: 'The fix from the note, for 3.1.1. Its author has left.',
    files: (seed) => [
      text('mods/free-camera/mod.json', about('free-camera', 'Free camera', '0.9.1')),
      modFile(seed, 'free-camera 0.9.1', 'mods/free-camera/free-camera-0.9.1.fwm', 4e3, 40e3),
      modFile(seed, 'free-camera 0.9.1', 'mods/free-camera/free-camera.lib', 20e3, 60e3),
      text('read me.txt', 'Put it over the old one.\n'),
    ],
  },
  {
    name: 'Reed colours 1.0.zip',
    words: 'Green reeds or golden ones: take one of the two.',
    files: (seed) => [...colours(seed, 'green'), ...colours(seed, 'gold')],
  },
  {
    name: 'Starlit water 1.0.zip',
    words: 'Brings a texture that Night sky brings as well.',
    files: (seed) => [
      text('mods/starlit-water/mod.json', about('starlit-water', 'Starlit water', '1.0')),
      modFile(seed, 'starlit-water 1.0', 'mods/starlit-water/starlit-water.fwm', 20e3, 60e3),
      modFile(seed, 'starlit-water 1.0', 'textures/tx-050.tex', 20e3, 90e3),
    ],
  },
  {
    name: 'Rust and rivets 0.5.zip',
    words: 'The hulls. The rivets are in an archive of their own.',
    files: (seed) =>
      ['mod.json', 'rust-and-rivets-0.5.fwm'].map((file) =>
        known(seed, 'rust-and-rivets', '0.5', `mods/rust-and-rivets/${file}`),
      ),
  },
  {
    name: 'Rust and rivets 0.5, rivets.zip',
    words: 'The rivets.',
    files: (seed) => [known(seed, 'rust-and-rivets', '0.5', 'mods/rust-and-rivets/more-0.5.fwm')],
  },
  {
    name: 'Lantern parade 1.0.zip',
    words: 'Lovely, but the game comes up only every other time since.',
    files: (seed) => plain(seed, 'lantern-parade', 'Lantern parade'),
  },
  {
    name: 'Otter tracks 1.0.zip',
    words: 'Runs for me. Others say that the game crashes with it.',
    files: (seed) => plain(seed, 'otter-tracks', 'Otter tracks'),
  },
];

/** Mods with which the game crashes as it comes up: with another one beside them, or every other time. */
export const CRASHES: readonly { readonly mod: string; readonly beside?: string; readonly everyOther?: true }[] = [
  { mod: 'lantern-parade', everyOther: true },
  { mod: 'otter-tracks', beside: 'reed-banks' },
];
