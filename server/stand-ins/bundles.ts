import { setImmediate } from 'node:timers/promises';
import { type BuildLabel, type DepotId, type DepotIndex } from '#core/builds';
import { type BundleIndex, type Compressor, packBundle, type ReadableDepot } from '#core/bundles';
import { buildsToBridge } from '#core/sources';

/* The depot service makes bundles when they are asked for, and keeps the latest. */

type Entry = DepotIndex['manifests'][number];

const BASE = '/stand-ins/depots/bundles';
/** What a bundle of everything is called, beside those against a build. */
const ALL = 'all';
const EFFORT = { level: 7, wholeLevel: 3, lookBack: 1 << 20 };
const MOST_KEPT = 40;

/** Which depot at which build, and which build has to be had. */
export interface BundleName {
  readonly build: BuildLabel;
  readonly depot: DepotId;
  readonly from: BuildLabel | undefined;
}

export interface MadeBundle {
  readonly index: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** Where the frames begin that have files of which the path has this in it. */
  readonly framesOf: (part: string) => number[];
}

/** What the service says of the bundles of a depot: against the builds beside it and the heads of branches, and of all of it. */
export function bundlesOffered(index: DepotIndex, { build, depot }: Entry): NonNullable<Entry['bundles']> {
  const bases = buildsToBridge(index, build).filter((other) =>
    index.manifests.some((entry) => entry.build === other && entry.depot === depot && entry.files > 0),
  );
  return [...bases, undefined].map((from) => {
    const path = `${BASE}/${build}/${depot}/${from ?? ALL}`;
    return { href: `${path}.zst`, index: `${path}.json`, ...(from !== undefined && { from }) };
  });
}

/** The name and the kind of what is asked for below `bundles/`; undefined for what is no bundle. */
export function readBundlePath(path: string): (BundleName & { readonly kind: 'zst' | 'json' }) | undefined {
  const [, build, depot, from, kind] = /^([^/]+)\/([^/]+)\/([^/]+)\.(zst|json)$/.exec(path) ?? [];
  if (build === undefined || depot === undefined || (kind !== 'zst' && kind !== 'json')) return undefined;
  const base = from === ALL ? undefined : (from as BuildLabel);
  return { build: build as BuildLabel, depot: depot as DepotId, from: base, kind };
}

/** The library for compressing, loaded when the first bundle is asked for; requests are answered between two frames. */
const compressor = async (): Promise<Compressor> => {
  const { compressUsingDict, createCCtx, freeCCtx, init } = await import('@bokuweb/zstd-wasm');
  await init();
  return {
    lanes: 1,
    async compress(bytes, prefix, level) {
      await setImmediate();
      const context = createCCtx();
      try {
        return compressUsingDict(context, bytes, prefix, level);
      } finally {
        freeCCtx(context);
      }
    },
  };
};
let loaded: Promise<Compressor> | undefined;

export class Bundles {
  readonly #made = new Map<string, Promise<MadeBundle>>();

  /** @param depotAt a depot at a build. @throws Failure `demo/unknown-file` where there is none */
  constructor(private readonly depotAt: (build: BuildLabel, depot: DepotId) => ReadableDepot) {}

  /** @throws Failure `demo/unknown-file` */
  get(name: BundleName): Promise<MadeBundle> {
    const key = JSON.stringify(name);
    const made = this.#made.get(key) ?? this.#make(name);
    // The one that was asked for last stands last.
    this.#made.delete(key);
    this.#made.set(key, made);
    if (this.#made.size > MOST_KEPT) this.#made.delete(this.#made.keys().next().value!);
    made.catch(() => this.#made.delete(key));
    return made;
  }

  async #make({ build, depot, from }: BundleName): Promise<MadeBundle> {
    const own = this.depotAt(build, depot);
    const base = from === undefined ? undefined : this.depotAt(from, depot);
    const frames: Uint8Array[] = [];
    const made = await packBundle(
      own,
      base,
      await (loaded ??= compressor()),
      EFFORT,
      (frame) => void frames.push(frame),
    );
    const nothing: BundleIndex = {
      ...{ format: 'regressum-bundle', version: 1, build, depot, manifest: own.sha256, frames: [] },
      ...(base && from !== undefined && { from: { build: from, manifest: base.sha256 } }),
    };
    const index = made?.index ?? nothing;
    return {
      index: JSON.stringify(index),
      bytes: new Uint8Array(Buffer.concat(frames)),
      framesOf(part) {
        let at = 0;
        return index.frames.flatMap(({ length, parts }) => {
          const begin = at;
          at += length;
          const files = parts.map((one) => own.manifest.paths[typeof one === 'number' ? one : one[0]]!);
          return files.some((path) => path.includes(part)) ? [begin] : [];
        });
      },
    };
  }
}
