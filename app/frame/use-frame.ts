import { useOutletContext } from 'react-router';
import { type BuildLabel, newestBuild } from '#core/builds';
import type { FrameView } from '~/reckoning/views';
import { useAddress } from '~/parts/use-address';

export const useFrame = (): FrameView => useOutletContext<FrameView>();

/** The build that the page speaks of: the one in the address, else the target, else what lies on disk, else the newest. */
export function useBuild(view: FrameView): BuildLabel {
  const asked = useAddress().get('build');
  const { builds, install, likeliest, index } = view;
  return (
    builds.find(({ label }) => label === asked)?.label ??
    install.target?.build ??
    likeliest ??
    newestBuild(index, 'main') ??
    builds[builds.length - 1]!.label
  );
}
