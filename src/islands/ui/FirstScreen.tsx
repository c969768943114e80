import { useState, type ReactNode } from 'react';
import type { Box } from '../../core/capture/capture';
import { shotSources } from './shotSources';

interface Props {
  /** Hash of the screenshot; undefined or null where there is none. */
  readonly shot?: string | null;
  readonly alt: string;
  /** Width and height of the screen in CSS pixels. */
  readonly screen: readonly [number, number];
  /** Box of the hero in the page, CSS pixels. */
  readonly hero?: Box;
  /** Drawn as wide, in px. */
  readonly width: number;
  /** Higher screens are cut here, in px. */
  readonly most?: number;
  /** The first one that a screen shows: it is likely that screen's own hero, which the head preloads. */
  readonly leads?: boolean;
  readonly children?: ReactNode;
}

/** The first screen of a page as recorded, its hero outlined; inert. */
export function FirstScreen({ shot, alt, screen, hero, width, most = Infinity, leads, children }: Props) {
  const [broken, setBroken] = useState(false);
  const scale = width / screen[0];
  const full = screen[1] * scale;
  const height = Math.min(full, most);
  return (
    <div className="first-screen" style={{ width, height }}>
      {shot && !broken ? (
        <img
          {...shotSources(shot, width)}
          width={width}
          height={full}
          alt={alt}
          loading={leads ? 'eager' : 'lazy'}
          fetchPriority={leads ? 'high' : undefined}
          onError={() => setBroken(true)}
        />
      ) : (
        <p className="soft small">No screenshot in this file.</p>
      )}
      {hero && (
        <svg width={width} height={height} aria-hidden>
          <rect
            x={Math.max(1.5, hero.x * scale)}
            y={Math.max(1.5, hero.y * scale)}
            width={Math.max(4, Math.min(width - 3, hero.width * scale - 3))}
            height={Math.max(4, Math.min(height - hero.y * scale - 3, hero.height * scale - 3))}
            fill="none"
            stroke="var(--hero)"
            strokeWidth={3}
          />
        </svg>
      )}
      {children}
    </div>
  );
}
