import { useCallback, useRef, useState } from 'react';

/** Width of an element for charts, with a floor; follows the element also when it is mounted later. */
export function useWidth(least: number): { ref: (node: HTMLElement | null) => void; width: number } {
  const [width, setWidth] = useState(0);
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
