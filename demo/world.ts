import type { BuildLabel, DepotId } from '#core/builds';
import { Failure } from '#core/failure';
import { type Content, readContent } from './content';
import { contentAt } from './lives';
import { BUILDS, DEPOTS } from './game';
import { SPOKEN_OF } from './mods';
import { assertSeed } from './random';
import { type FileLife, fileLives } from './tree';

export const DEMO_SEED = 20_261_123;

export interface DemoFile {
  readonly path: string;
  /** Bytes. */
  readonly size: number;
  /** Equal for two files if their bytes are equal by construction: one content is hashed once, however many builds have it. */
  readonly contentId: string;
}

/** Multiplies the demo for measurements: 1 and 1 is the demo itself. */
export interface DemoScale {
  readonly files: number;
  readonly bytes: number;
}

export interface DemoWorld {
  /** The files of a depot at a build, sorted by path. An unknown build or depot has none. */
  files(build: BuildLabel, depot: DepotId): readonly DemoFile[];
  /**
   * Bytes `[start, end)` of a file, made on demand.
   * @throws Failure `demo/unknown-file`, or `demo/bad-range` unless 0 <= start <= end <= size
   */
  read(build: BuildLabel, depot: DepotId, path: string, start?: number, end?: number): Uint8Array<ArrayBuffer>;
}

/** @throws Failure `demo/bad-range` */
export function assertRange(path: string, size: number, start: number, end: number): void {
  const whole = Number.isInteger(start) && Number.isInteger(end);
  if (!whole || start < 0 || end < start || end > size) {
    throw new Failure('demo/bad-range', { path, found: `${start} to ${end}`, expected: `within 0 to ${size}` });
  }
}

function depotAt(
  seed: number,
  lives: readonly FileLife[],
  build: number,
): Map<string, DemoFile & { content: Content }> {
  const entries = lives
    .filter(({ born, gone }) => born <= build && build < gone)
    .map((life) => {
      const path = life.paths.findLast(({ since }) => since <= build)!.path;
      const content = contentAt(seed, life, build);
      const revision = life.changes.filter((change) => change <= build).length;
      return [path, { path, size: content.size, contentId: `${life.name}@${revision}`, content }] as const;
    });
  return new Map(entries.toSorted(([a], [b]) => (a < b ? -1 : 1)));
}

/**
 * The demo's game, every byte of it a function of the seed.
 * @throws Failure `demo/bad-seed`
 */
export function createDemoWorld(seed: number = DEMO_SEED, scale: DemoScale = { files: 1, bytes: 1 }): DemoWorld {
  assertSeed(seed);
  const lives = fileLives(seed, scale.files, scale.bytes, SPOKEN_OF);
  const made = new Map<string, Map<string, DemoFile & { content: Content }>>();
  const depot = (label: BuildLabel, id: DepotId): Map<string, DemoFile & { content: Content }> => {
    const build = BUILDS.findIndex((b) => b.label === label);
    // Of what does not exist nothing is remembered either.
    if (build < 0 || !DEPOTS.some((known) => known.id === id)) return new Map();
    const key = `${label}/${id}`;
    let files = made.get(key);
    if (!files) {
      const own = lives.filter((life) => life.depot === id);
      made.set(key, (files = depotAt(seed, own, build)));
    }
    return files;
  };
  return {
    files: (build, id) => [...depot(build, id).values()],
    read(build, id, path, start = 0, end) {
      const file = depot(build, id).get(path);
      if (!file) throw new Failure('demo/unknown-file', { path, build, depot: id });
      assertRange(path, file.size, start, end ?? file.size);
      return readContent(file.content, start, end ?? file.size);
    },
  };
}
