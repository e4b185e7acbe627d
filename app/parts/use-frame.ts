import { useOutletContext } from 'react-router';
import { type BuildColumn, type BuildLabel, foldBuilds, headBuild } from '#core/builds';
import type { FrameView } from '~/queries';
import { useAddress } from './use-address';

export const useFrame = (): FrameView => useOutletContext<FrameView>();

/** Where no source tells of any build: no build has an empty label. */
const NO_BUILD = '' as BuildLabel;

/** The build that the page speaks of: the one in the address, else the target, else what lies on disk, else the newest. */
export function useBuild(view: FrameView): BuildLabel {
  const asked = useAddress().get('build');
  const { builds, install, likeliest, index } = view;
  return (
    builds.find(({ label }) => label === asked)?.label ??
    install.target?.build ??
    likeliest ??
    headBuild(index) ??
    NO_BUILD
  );
}

/** The columns of the build line, and of every picture below it: builds that nothing speaks of are folded. */
export function useColumns(view: FrameView): BuildColumn[] {
  const unfolded = useAddress().get('unfold') !== undefined;
  const build = useBuild(view);
  const labels = view.builds.map(({ label }) => label);
  return unfolded
    ? labels.map((label): BuildColumn => [label])
    : foldBuilds(labels, new Set([...view.spokenOf, build]));
}

/** A folded column is this wide, of a build's. */
const FOLD_WIDTH = 0.6;

/** How wide columns are, as CSS grid tracks. */
export function columnTracks(columns: readonly BuildColumn[]): string {
  return columns
    .map(({ length }) => (length === 1 ? 'minmax(46px, 1fr)' : `minmax(${46 * FOLD_WIDTH}px, ${FOLD_WIDTH}fr)`))
    .join(' ');
}

/** Where the middle of a build's column lies, as a share of the width of all; undefined for a build that is not there. */
export function columnMiddle(columns: readonly BuildColumn[], build: BuildLabel | undefined): number | undefined {
  const widths = columns.map(({ length }) => (length === 1 ? 1 : FOLD_WIDTH));
  const sum = (some: readonly number[]): number => some.reduce((all, width) => all + width, 0);
  const at = columns.findIndex((column) => column.some((label) => label === build));
  return at < 0 ? undefined : (sum(widths.slice(0, at)) + widths[at]! / 2) / sum(widths);
}
