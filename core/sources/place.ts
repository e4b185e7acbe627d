import { WebAddress } from './web-address';
import type { DepotIndex } from '#core/builds';
import type { Catalogue } from '#core/mods';

/** Where a source's own addresses lie, as the page asks for them. */
export interface SourcePlace {
  /** What stands before the path of an address of the source; empty for one of the page's own server. */
  readonly prefix: string;
  /** The path that its index or catalogue has there. */
  readonly path: string;
}

/** Stands for the source's own origin, which no reference in it names. */
const SOURCE = 'http://source.invalid';

/** A reference in what a source says, as the page asks for it; the empty one stays: it is to be had nowhere. */
function placed(href: string, place: SourcePlace | undefined): string {
  if (href === '' || !place) return '';
  const { prefix, path } = place;
  const { pathname, search } = new WebAddress(href, SOURCE + path);
  return prefix + pathname + search;
}

/** An index whose addresses can be asked for; none, where it was handed over and lies nowhere. */
export const placeIndex = (index: DepotIndex, place: SourcePlace | undefined): DepotIndex => ({
  ...index,
  manifests: index.manifests.map((entry) => ({
    ...entry,
    href: placed(entry.href, place),
    filesHref: placed(entry.filesHref, place),
    mirrors: place && entry.mirrors?.map((href) => placed(href, place)),
    bundles:
      place &&
      entry.bundles?.map((bundle) => ({
        ...bundle,
        href: placed(bundle.href, place),
        index: placed(bundle.index, place),
      })),
  })),
});

/** A catalogue likewise. */
export const placeCatalogue = (catalogue: Catalogue, place: SourcePlace | undefined): Catalogue => ({
  ...catalogue,
  mods: catalogue.mods.map((mod) => ({
    ...mod,
    releases: mod.releases.map((release) => ({
      ...release,
      files: release.files.map((file) => ({ ...file, href: placed(file.href, place) })),
    })),
  })),
});
