import { fileName } from '../../core/capture/url';
import type { Box } from '../../core/capture/capture';
import type { MixedItem, MixedPage } from '../../core/pictures/mixed';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import type { CaptureView } from '../state/types';
import { count } from '../ui/format';
import { FirstScreen } from '../ui/FirstScreen';
import { ErrorBox, Loading } from '../ui/parts';
import { To } from '../ui/To';

const WIDTH = 190;
const TALLEST = 300;
/** Pages that are shown; the table above has all. */
const SHOWN = 6;

const isMissing = ({ meets }: MixedItem) => meets === 'blocked' || meets === 'upgrade fails';

/** What visitors see of the pages on which something is missing: its place on the first screen is hatched. */
export function MissingPictures({ pages }: { pages: readonly MixedPage[] }) {
  const missing = pages.flatMap((p) => {
    const items = p.cells.flatMap((c) => c.items.filter(isMissing));
    return items.length > 0 ? [{ page: p, items }] : [];
  });
  if (missing.length === 0) return null;
  return (
    <section aria-label="What a visitor sees">
      <h2>
        What a visitor sees <span className="soft normal">what is missing is hatched</span>
      </h2>
      <ul className="missing-shots">
        {missing.slice(0, SHOWN).map(({ page, items }) => (
          <Missing key={page.captureId} page={page} items={items} />
        ))}
      </ul>
      {missing.length > SHOWN && (
        <p className="soft small">and {count(missing.length - SHOWN, 'more page')} in the table above</p>
      )}
    </section>
  );
}

function Missing({ page, items }: { page: MixedPage; items: readonly MixedItem[] }) {
  const { siteId } = useBench();
  const found = useResource<CaptureView>(`/api/captures/${page.captureId}?source=false`);
  const view = found.value;
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!view) return <Loading what="Reading the capture" />;
  const { screenWidth, screenHeight } = view.conditions;
  const places = items.map((item) => {
    const path = view.findings.find((f) => f.id === item.finding)?.evidence.path;
    const box = path === undefined ? undefined : view.boxes[path];
    return { item, box: box && box.width > 0 && box.height > 0 ? box : undefined };
  });
  const scale = WIDTH / screenWidth;
  const onScreen = places.flatMap(({ box }) => (box && box.y < screenHeight ? [box] : []));
  return (
    <li>
      <FirstScreen
        shot={view.row.screenshotHash}
        alt={`First screen of ${view.row.title}, ${count(onScreen.length, 'place')} of it hatched`}
        screen={[screenWidth, screenHeight]}
        width={WIDTH}
        most={TALLEST}
      >
        <Hatched id={`missing-${page.captureId}`} boxes={onScreen} scale={scale} />
      </FirstScreen>
      <p>
        <To to={`/sites/${siteId}/pages/${page.captureId}`}>
          <b>{view.row.title || page.page}</b>
        </To>
      </p>
      <ul className="small">
        {places.map(({ item, box }) => (
          <li key={item.finding}>
            <To to={`/sites/${siteId}/pages/${page.captureId}?tab=findings&finding=${item.finding}`}>
              <span className="mono break">{fileName(item.url) || item.url}</span>
            </To>{' '}
            <span className="soft">{placeText(box, screenHeight)}</span>
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
