import { useState } from 'react';
import type { CaptureView } from '../state/types';
import { Term } from '../ui/parts';

const WIDTH = 168;

/** The screenshot with the hero outlined, both inert. */
export function HeroPicture({ view }: { view: CaptureView }) {
  const [broken, setBroken] = useState(false);
  const { conditions, hero } = view;
  const scale = WIDTH / conditions.screenWidth;
  const height = conditions.screenHeight * scale;
  const shot = view.row.screenshotHash;
  return (
    <figure className="shot">
      <div style={{ width: WIDTH, height }}>
        {shot && !broken ? (
          <img
            src={`/api/bodies/${shot}`}
            width={WIDTH}
            height={height}
            alt={`First screen of ${view.row.title}`}
            onError={() => setBroken(true)}
          />
        ) : (
          <p className="soft small">No screenshot in this file.</p>
        )}
        {hero.box && (
          <svg width={WIDTH} height={height} aria-hidden>
            <rect
              x={Math.max(1.5, hero.box.x * scale)}
              y={Math.max(1.5, hero.box.y * scale)}
              width={Math.min(WIDTH - 3, hero.box.width * scale - 3)}
              height={Math.max(4, Math.min(height - hero.box.y * scale - 3, hero.box.height * scale - 3))}
              fill="none"
              stroke="var(--hero)"
              strokeWidth={3}
            />
          </svg>
        )}
      </div>
      <figcaption>
        <Term means="The largest picture or text of the first screen. Its paint is Largest Contentful Paint (LCP).">
          Hero
        </Term>
        : <span className="mono">{hero.label ?? hero.kind}</span>
        {hero.seen ? '' : ' (guessed: the file has no observations)'}
      </figcaption>
    </figure>
  );
}
