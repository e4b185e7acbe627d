import { useDisclosure, useHotkeys } from '@mantine/hooks';
import { lazy, Suspense } from 'react';
import { useNavigate } from 'react-router';
import { useAddress } from '~/parts/use-address';
import type { FrameView } from '~/queries';
import { stageAddress, STAGES } from './stages';

/** Moves the focus along the items of the stage's list. */
function alongList(step: 1 | -1): void {
  const items = [...document.querySelectorAll<HTMLElement>('[data-item]')];
  const place = items.indexOf(document.activeElement as HTMLElement);
  items[place < 0 ? 0 : Math.min(items.length - 1, Math.max(0, place + step))]?.focus();
}

const KeyHelp = lazy(() => import('./KeyHelp'));
const Palette = lazy(() => import('./Palette'));

/**
 * The keyboard's way through everything; the page that explains it and the palette are loaded when first asked for.
 * @param asked how often the palette was asked for
 */
export function Keys({
  view,
  asked,
  ask,
  showStanding,
}: {
  view: FrameView;
  asked: number;
  ask: () => void;
  showStanding: () => void;
}) {
  const install = view.install.id;
  const navigate = useNavigate();
  const address = useAddress();
  const [open, { close, toggle }] = useDisclosure(false);
  const build = address.get('build');
  useHotkeys([
    ...STAGES.map(({ id, key }): [string, () => void] => [key, () => void navigate(stageAddress(install, id, build))]),
    ['o', () => void navigate(`/${install}/order`)],
    ['l', () => void navigate(`/${install}/shelf`)],
    ['p', () => void navigate(`/${install}/keepsakes`)],
    ['r', () => void navigate(`/${install}/profiles`)],
    ['y', () => void navigate(`/${install}/history`)],
    ['t', () => view.service && address.set({ panel: address.get('panel') === 'stand-ins' ? undefined : 'stand-ins' })],
    ['j', () => alongList(1)],
    ['k', () => alongList(-1)],
    ['b', () => document.querySelector<HTMLElement>('[id^="build-"][aria-current="true"]')?.focus()],
    ['/', () => document.querySelector<HTMLElement>('[data-filter]')?.focus()],
    ['shift+?', toggle],
    ['mod+k', ask],
  ]);
  return (
    <Suspense>
      {open && <KeyHelp open={open} close={close} />}
      {asked > 0 && <Palette view={view} asked={asked} showStanding={showStanding} />}
    </Suspense>
  );
}
