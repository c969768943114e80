import type { Box } from '../../core/capture/capture';
import { fileName } from '../../core/capture/url';
import type { MissingPlaces } from '../../engine/services/missingPlaces';
import { useBench } from '../state/bench';
import { count } from '../ui/format';
import { FirstScreen } from '../ui/FirstScreen';
import { MISSING_WIDTH } from './mixedPath';
import { To } from '../ui/To';

const TALLEST = 300;

/** What visitors see of the pages on which something is missing: its place on the first screen is hatched. */
export function MissingPictures({ missing }: { missing: readonly MissingPlaces[] }) {
  if (missing.length === 0) return null;
  return (
    <section aria-label="What a visitor sees">
      <h2>
        What a visitor sees <span className="soft normal">what is missing is hatched</span>
      </h2>
      <ul className="missing-shots">
        {missing.map((page, i) => (
          <Missing key={page.captureId} page={page} leads={i === 0} />
        ))}
      </ul>
    </section>
  );
}

function Missing({ page, leads }: { page: MissingPlaces; leads: boolean }) {
  const { siteId } = useBench();
  const { captureId, title, places, screen } = page;
  const onScreen = places.flatMap(({ box }) => (box && box.y < screen[1] ? [box] : []));
  return (
    <li>
      <FirstScreen
        shot={page.screenshotHash}
        alt={`First screen of ${title}, ${page.device}; ${count(onScreen.length, 'place')} of it hatched`}
        screen={screen}
        width={MISSING_WIDTH}
        most={TALLEST}
        leads={leads}
      >
        <Hatched id={`missing-${captureId}`} boxes={onScreen} scale={MISSING_WIDTH / screen[0]} />
      </FirstScreen>
      <p>
        <To to={`/sites/${siteId}/pages/${captureId}`}>
          <b>{title}</b>
        </To>
      </p>
      <ul className="small">
        {places.map(({ finding, url, box }) => (
          <li key={finding}>
            <To to={`/sites/${siteId}/pages/${captureId}?tab=findings&finding=${finding}`}>
              <span className="mono break">{fileName(url) || url}</span>
            </To>{' '}
            <span className="soft">{placeText(box, screen[1])}</span>
          </li>
        ))}
      </ul>
    </li>
  );
}

function placeText(box: Box | undefined, screenHeight: number): string {
  if (!box) return 'has no place of its own: what it does or draws is missing';
  if (box.y >= screenHeight) return `below this screen, ${Math.round(box.y).toLocaleString('en-GB')} px down`;
  return 'hatched';
}

function Hatched({ id, boxes, scale }: { id: string; boxes: readonly Box[]; scale: number }) {
  if (boxes.length === 0) return null;
  return (
    <svg width="100%" height="100%" aria-hidden className="hatched">
      <defs>
        <pattern id={id} width={7} height={7} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width={7} height={7} fill="var(--paper)" fillOpacity={0.75} />
          <line x1={0} x2={0} y1={0} y2={7} stroke="var(--cost)" strokeWidth={3} />
        </pattern>
      </defs>
      {boxes.map((b, i) => (
        <rect
          key={i}
          x={b.x * scale}
          y={b.y * scale}
          width={Math.max(5, b.width * scale)}
          height={Math.max(5, b.height * scale)}
          fill={`url(#${id})`}
          stroke="var(--cost)"
        />
      ))}
    </svg>
  );
}
