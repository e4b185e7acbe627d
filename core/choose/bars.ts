/** Why a release counts at a build: its author says so, it was tried there, or by weaker evidence. */
export type Support = 'stated' | 'proven' | 'weaker';

/** A release over neighbouring builds for which it counts in the same way, both ends included. */
export interface Bar {
  readonly release: string;
  readonly from: number;
  readonly to: number;
  readonly support: Support;
}

/**
 * The bars of a mod's releases over the builds from old to new.
 * @param supportAt why a release counts at the build with this place; undefined where it does not
 */
export function barsOf(
  releases: readonly { readonly version: string }[],
  builds: number,
  supportAt: (release: number, build: number) => Support | undefined,
): Bar[] {
  return releases.flatMap(({ version }, release) => {
    const bars: Bar[] = [];
    for (let build = 0; build < builds; build++) {
      const support = supportAt(release, build);
      const last = bars.at(-1);
      if (support === undefined) continue;
      if (last?.to === build - 1 && last.support === support) bars[bars.length - 1] = { ...last, to: build };
      else bars.push({ release: version, from: build, to: build, support });
    }
    return bars;
  });
}
