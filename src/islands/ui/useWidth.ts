import { useElementSize } from '@mantine/hooks';

/** Width of an element for charts, with a floor until it is known. */
export function useWidth(least: number): { ref: (node: HTMLDivElement | null) => void; width: number } {
  const { ref, width } = useElementSize<HTMLDivElement>();
  return { ref: ref as never, width: Math.max(least, Math.floor(width) || least) };
}
