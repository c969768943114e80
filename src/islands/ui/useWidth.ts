import { useCallback, useRef, useState } from 'react';
import { served } from '../state/served';

/** What the frame leaves of a window for a screen, in px (`frame.css`). */
function widthOfMain(window: number): number {
  return window > 1000 ? window - 168 - 268 - 48 : window - 24;
}

/**
 * Width of an element for charts, with a floor; follows the element also when it is mounted later. The first drawing,
 * here and on the server, is for the window that the page was served for.
 */
export function useWidth(least: number): { ref: (node: HTMLElement | null) => void; width: number } {
  const [width, setWidth] = useState(() => widthOfMain(served().width));
  const observer = useRef<ResizeObserver | undefined>(undefined);
  const ref = useCallback((node: HTMLElement | null) => {
    observer.current?.disconnect();
    if (!node) return;
    setWidth(Math.floor(node.getBoundingClientRect().width));
    observer.current = new ResizeObserver(([entry]) => entry && setWidth(Math.floor(entry.contentRect.width)));
    observer.current.observe(node);
  }, []);
  return { ref, width: Math.max(least, width) };
}
