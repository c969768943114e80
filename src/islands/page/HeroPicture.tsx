import type { CaptureView, ShownFinding } from '../state/types';
import { useResource } from '../state/api';
import { FirstScreen } from '../ui/FirstScreen';
import { Term } from '../ui/parts';
import { SHOT_WIDTH } from './storyPath';

/** The first screens of both devices, side by side where there is room; the one at hand with the finding's element. */
export function HeroPictures({ view, finding, open }: { view: CaptureView; finding?: ShownFinding; open: Open }) {
  const [twin] = view.twins;
  const other = useResource<CaptureView>(twin && `/api/captures/${twin.id}?source=false`);
  return (
    <div className="shots">
      <HeroPicture view={view} finding={finding} leads />
      {twin && other.value?.row.id === twin.id && (
        <div>
          <HeroPicture view={other.value} />
          <button className="link small" onClick={() => open(twin.device)}>
            Show {twin.device}
          </button>
        </div>
      )}
    </div>
  );
}

type Open = (device: 'phone' | 'desktop') => void;

interface PictureProps {
  readonly view: CaptureView;
  readonly finding?: ShownFinding;
  readonly leads?: boolean;
}

/** The screenshot with the hero outlined, and the element of the finding at hand; inert. */
function HeroPicture({ view, finding, leads }: PictureProps) {
  const { conditions, hero } = view;
  const scale = SHOT_WIDTH / conditions.screenWidth;
  const height = conditions.screenHeight * scale;
  const at = finding?.evidence.path === undefined ? undefined : view.boxes[finding.evidence.path];
  const below = at && at.y >= conditions.screenHeight;
  return (
    <figure className="shot">
      <FirstScreen
        shot={view.row.screenshotHash}
        alt={`First screen of ${view.row.title}, ${view.row.device}`}
        screen={[conditions.screenWidth, conditions.screenHeight]}
        hero={hero.box}
        width={SHOT_WIDTH}
        leads={leads}
      >
        {at && !below && at.width > 0 && (
          <svg width={SHOT_WIDTH} height={height} aria-hidden>
            <rect
              x={Math.max(1, at.x * scale)}
              y={Math.max(1, at.y * scale)}
              width={Math.max(4, Math.min(SHOT_WIDTH - 2 - at.x * scale, at.width * scale))}
              height={Math.max(4, Math.min(height - at.y * scale - 2, at.height * scale))}
              fill="none"
              stroke="var(--ink)"
              strokeWidth={2}
              strokeDasharray="5 3"
            />
          </svg>
        )}
      </FirstScreen>
      <figcaption>
        <b>{view.row.device === 'phone' ? 'Phone' : 'Desktop'}</b>{' '}
        <Term means="The largest picture or text of the first screen. Its paint is Largest Contentful Paint (LCP).">
          Hero
        </Term>
        : <span className="mono">{hero.label ?? hero.kind}</span>
        {hero.seen ? '' : ' (guessed: the file has no observations)'}
        {at && (
          <span className="source-line">
            <Term means="The element of the finding that is marked in the list.">Dashed</Term>:{' '}
            <span className="mono">{finding?.evidence.element ?? finding?.evidence.path?.split('>').at(-1)}</span>
            {below ? ` (${Math.round(at.y)} px down, below this screen)` : at.width === 0 ? ' (not shown)' : ''}
          </span>
        )}
      </figcaption>
    </figure>
  );
}
