import { createHash } from 'node:crypto';
import { crc32 } from 'node:zlib';
import { asDepot, type BuildLabel, countingDepots, type DepotId, type DepotIndex, type Ownership } from '#core/builds';
import type { ReadableDepot } from '#core/bundles';
import { PIECE_SIZE, pieceCount, pieceRange } from '#core/digest';
import { Failure } from '#core/failure';
import {
  fileAt,
  type LaidFile,
  type Manifest,
  manifestBytes,
  type ManifestFile,
  manifestFiles,
  manifestFromFiles,
  overlay,
  writeMetalink,
} from '#core/manifest';
import type { Catalogue } from '#core/mods';
import {
  BRANCHES,
  BUILDS,
  createDemoWorld,
  DEMO_SEED,
  demoCatalogue,
  DEPOTS,
  type DemoWorld,
  GAME,
  playerFiles,
  type PlayerFile,
} from '#demo';
import { Bundles, bundlesOffered } from './bundles';

export const sha256 = (data: Uint8Array | string): string => createHash('sha256').update(data).digest('hex');

/** Laid trees that are remembered. */
const MOST_TREES = 64;

type Digests = Pick<ManifestFile, 'sha256' | 'pieces' | 'others'>;

/** Checksums that people's older lists have; publishers go on telling them. */
const otherDigests = (bytes: Uint8Array): NonNullable<ManifestFile['others']> => ({
  'sha-1': createHash('sha1').update(bytes).digest('hex'),
  md5: createHash('md5').update(bytes).digest('hex'),
  'crc-32': crc32(bytes).toString(16).padStart(8, '0'),
});

/** How much of what it usually has the demo has, as the environment says: tests have the same world, and less to carry about. */
function shareOf(name: 'REGRESSUM_DEMO_FILES' | 'REGRESSUM_DEMO_BYTES'): number {
  const share = Number(process.env[name] ?? 1);
  return share > 0 && share <= 1 ? share : 1;
}

/**
 * What the made-up publishers have: the same for every visitor. Manifests are made from the bytes when they are first
 * asked for and kept; a content that several builds share is hashed once.
 */
export class Library {
  readonly world: DemoWorld = createDemoWorld(DEMO_SEED, {
    files: shareOf('REGRESSUM_DEMO_FILES'),
    bytes: shareOf('REGRESSUM_DEMO_BYTES'),
  });
  readonly player: readonly PlayerFile[] = playerFiles(DEMO_SEED, this.world);
  readonly #digests = new Map<string, Digests>();
  readonly #manifests = new Map<string, { manifest: Manifest; text: string; sha256: string }>();
  readonly #places = new WeakMap<Manifest, ReadonlyMap<string, number>>();
  readonly #catalogues = new Map<boolean, Catalogue>();
  readonly bundles = new Bundles((build, depot) => this.#readable(build, depot));
  readonly #laid = new Map<string, LaidFile[]>();

  #digest(build: BuildLabel, depot: DepotId, path: string, size: number, contentId: string): Digests {
    const known = this.#digests.get(contentId);
    if (known) return known;
    const bytes = this.world.read(build, depot, path);
    const pieces = Array.from({ length: pieceCount(size) }, (_, i) => {
      const { start, end } = pieceRange(size, i);
      return sha256(bytes.subarray(start, end));
    });
    const digests = { sha256: size <= PIECE_SIZE ? pieces[0]! : sha256(bytes), pieces, others: otherDigests(bytes) };
    this.#digests.set(contentId, digests);
    return digests;
  }

  /** @throws Failure `demo/unknown-file` for a build or depot that does not exist */
  manifest(build: BuildLabel, depot: DepotId): { manifest: Manifest; text: string; sha256: string } {
    const key = `${build}/${depot}`;
    let made = this.#manifests.get(key);
    if (!made) {
      // Of what does not exist nothing is remembered.
      if (!BUILDS.some(({ label }) => label === build) || !DEPOTS.some(({ id }) => id === depot)) {
        throw new Failure('demo/unknown-file', { path: key });
      }
      const files = this.world
        .files(build, depot)
        .map(({ path, size, contentId }) => ({ path, size, ...this.#digest(build, depot, path, size, contentId) }));
      const manifest = manifestFromFiles(build, depot, files);
      const text = writeMetalink(
        manifest,
        (path) => `../../files/${key}/${path.split('/').map(encodeURIComponent).join('/')}`,
      );
      made = { manifest, text, sha256: sha256(text) };
      this.#manifests.set(key, made);
    }
    return made;
  }

  /** A file's size and digest. @throws Failure `demo/unknown-file` */
  file(build: BuildLabel, depot: DepotId, path: string): Pick<ManifestFile, 'size' | 'sha256'> {
    const { manifest } = this.manifest(build, depot);
    let places = this.#places.get(manifest);
    if (!places) this.#places.set(manifest, (places = new Map(manifest.paths.map((name, i) => [name, i]))));
    const place = places.get(path);
    if (place === undefined) throw new Failure('demo/unknown-file', { path, build, depot });
    return fileAt(manifest, place);
  }

  /** A depot at a build as bundles are made of it. @throws Failure `demo/unknown-file` */
  #readable(build: BuildLabel, depot: DepotId): ReadableDepot {
    const { manifest, sha256: digest } = this.manifest(build, depot);
    if (manifest.paths.length === 0) throw new Failure('demo/unknown-file', { path: `${build}/${depot}` });
    return { manifest, sha256: digest, read: (path, start, end) => this.world.read(build, depot, path, start, end) };
  }

  /** The depot service's index; once the next patch is out, `main` points to the build that was on trial. */
  index(afterPatch: boolean): DepotIndex {
    const trial = BUILDS.at(-1)!.label;
    const index: DepotIndex = {
      format: 'regressum-depot-index',
      version: 1,
      game: GAME,
      builds: BUILDS.map(({ label, date }) => ({
        label,
        date,
        branch: label === trial && !afterPatch ? 'trial' : 'main',
      })),
      branches: BRANCHES.flatMap((branch) => {
        if (!afterPatch) return [branch];
        if (branch.name === 'trial') return [];
        return [branch.name === 'main' ? { ...branch, build: trial } : branch];
      }),
      depots: [...DEPOTS],
      manifests: BUILDS.flatMap(({ label: build }) =>
        DEPOTS.map(({ id: depot }) => {
          const { manifest, sha256: digest } = this.manifest(build, depot);
          return {
            build,
            depot,
            href: `/stand-ins/depots/manifests/${build}/${depot}.meta4`,
            filesHref: `/stand-ins/depots/files/${build}/${depot}/`,
            sha256: digest,
            files: manifest.paths.length,
            bytes: manifestBytes(manifest),
          };
        }),
      ),
    };
    return {
      ...index,
      manifests: index.manifests.map((entry) =>
        entry.files === 0 ? entry : { ...entry, bundles: bundlesOffered(index, entry) },
      ),
    };
  }

  /** SHA-256 of the program at a build. */
  #program(build: BuildLabel): string | undefined {
    const { manifest } = this.manifest(build, asDepot('program'));
    return manifestFiles(manifest).find(({ path }) => path === this.index(false).game.rules.program)?.sha256;
  }

  catalogue(afterPatch: boolean): Catalogue {
    let catalogue = this.#catalogues.get(afterPatch);
    if (!catalogue) {
      catalogue = demoCatalogue(DEMO_SEED, sha256, afterPatch, (build) => this.#program(build));
      this.#catalogues.set(afterPatch, catalogue);
    }
    return catalogue;
  }

  /** The tree that a build gives for someone with this ownership. */
  laid(build: BuildLabel, ownership: Ownership): LaidFile[] {
    const depots = countingDepots(this.index(false), ownership).map(({ id }) => id);
    // Combinations of depots that somebody may ask for are many more than those that anybody has.
    if (this.#laid.size >= MOST_TREES) this.#laid.clear();
    const key = `${build}:${depots.join()}`;
    let laid = this.#laid.get(key);
    if (!laid) {
      laid = overlay(depots.map((depot) => this.manifest(build, depot).manifest));
      this.#laid.set(key, laid);
    }
    return laid;
  }

  /** Makes all manifests, one depot at a time, so that requests can be answered in between. */
  async warm(): Promise<void> {
    for (const { label } of BUILDS) {
      for (const { id } of DEPOTS) {
        this.manifest(label, id);
        await new Promise((resolve) => setImmediate(resolve));
      }
    }
  }
}

export const library = new Library();
