import { useEffect, useRef } from 'react';

const WIDTH = '--builds-width';
const SCROLLED = '--builds-scrolled';

/**
 * Tells the whole page, as two CSS lengths, how wide the columns of the build line are and how far it is scrolled, so that
 * pictures below it keep to its columns without being drawn anew.
 * @returns for the element that scrolls
 */
export function useBuildScroll() {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const element = box.current!;
    const root = document.documentElement.style;
    const tell = (): void => {
      root.setProperty(WIDTH, `${element.scrollWidth}px`);
      root.setProperty(SCROLLED, `${element.scrollLeft}px`);
    };
    const observer = new ResizeObserver(tell);
    observer.observe(element);
    observer.observe(element.firstElementChild!);
    element.addEventListener('scroll', tell, { passive: true });
    element.dataset.buildScroll = '';
    tell();
    return () => {
      observer.disconnect();
      element.removeEventListener('scroll', tell);
    };
  }, []);
  return box;
}

/** Scrolls the build line sideways, from a picture that keeps to its columns. */
export function scrollBuilds(by: number): void {
  document.querySelector('[data-build-scroll]')?.scrollBy({ left: by });
}
