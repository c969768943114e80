import { deviceOf, visitorWith } from '../../core/load/visitors';
import { fileName, pathOf } from '../../core/capture/url';
import type { HeroPictures } from '../../engine/services/loadPictures';
import { sum } from 'd3';
import { useState } from 'react';
import { splitLayout, SPLIT_PARTS } from '../charts/splitLayout';
import { FieldLine } from '../field/FieldLine';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { overviewPath } from '../state/sweepPaths';
import type { OverviewAnswer } from '../state/types';
import { count, ms } from '../ui/format';
import { FirstScreen } from '../ui/FirstScreen';
import { ErrorBox, Loading, MEANS, Term } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { useWidth } from '../ui/useWidth';
import { useBestGains } from './useBestGains';
import {
  heroEntries,
  heroOrder,
  HERO_SORTS,
  HERO_WIDTH,
  picturesPath,
  queueSentence,
  type HeroEntry,
} from './heroPages';

const TALLEST = 180;

/** The heroes of all recorded pages: first screens, where the time goes, the queue, and what would help most. */
export function HeroGallery() {
  const { sweepId, visitor, data } = useBench();
  const gains = useBestGains();
  const { query } = useLocation();
  const { ref, width } = useWidth(320);
  const found = useResource<HeroPictures>(
    sweepId === undefined ? undefined : picturesPath('heroes', sweepId, visitor.id),
  );
  const device = data.value?.device ?? deviceOf(visitor);
  const twin = device === 'phone' ? 'desktop' : 'phone';
  const hasTwins = data.value?.devices.includes(twin) ?? false;
  const others = useResource<OverviewAnswer>(
    sweepId === undefined || !hasTwins ? undefined : overviewPath(sweepId, twin),
  );
  const otherPictures = useResource<HeroPictures>(
    sweepId === undefined || !hasTwins ? undefined : picturesPath('heroes', sweepId, visitorWith(twin).id),
  );
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value || !data.value) return <Loading what="Simulating the recorded pages" />;
  const { sort, all } = heroOrder(query);
  const entries = heroEntries(data.value.pages, found.value.pages, gains, { sort, all });
  const folded = entries.reduce((n, e) => n + e.like.length, 0);
  // Of folded pages too: the slowest hero is the one that the Brief names.
  const most = Math.max(1, ...found.value.pages.map((p) => p.hero.lcpMs));
  const wide = width > 620;
  const plot = Math.max(160, width - (wide ? 2 * HERO_WIDTH + 44 : 0) - 56);
  const twinOf = (e: HeroEntry) => {
    const page =
      others.value?.device === twin ? others.value.pages.find((p) => p.row.page === e.page.row.page) : undefined;
    const picture = page && otherPictures.value?.pages.find((p) => p.captureId === page.row.id);
    return page && picture ? { page, picture } : undefined;
  };
  return (
    <section aria-label="Heroes by page" ref={ref}>
      <p className="tools">
        <span className="soft">Sort by</span>
        {Object.entries(HERO_SORTS).map(([id, name]) => (
          <SetTo
            key={id}
            role="button"
            className={id === sort ? 'strong' : 'link'}
            aria-pressed={id === sort}
            changes={{ heroes: id === 'gain' ? null : id }}
          >
            {name}
          </SetTo>
        ))}
        {(folded > 0 || all) && (
          <SetTo role="button" className="link" aria-pressed={all} changes={{ each: all ? null : 'page' }}>
            {all ? 'One page of each template' : `All ${data.value.pages.length} pages`}
          </SetTo>
        )}
      </p>
      <p className="soft small split-key">
        {SPLIT_PARTS.map((p) => (
          <span key={p.key}>
            <svg width={16} height={10} aria-hidden>
              <rect
                x={0.5}
                y={p.key === 'untilFoundMs' ? 3 : 0.5}
                width={15}
                height={p.key === 'untilFoundMs' ? 4 : 9}
                className={`split-part now ${p.key}`}
              />
            </svg>{' '}
            <Term means={p.means}>{p.name}</Term>
          </span>
        ))}
        <span>
          up to <Term means={MEANS.lcp}>hero paint</Term>, longest {ms(most)}
        </span>
      </p>
      <ul className={hasTwins ? 'heroes twins' : 'heroes'}>
        {entries.map((e, i) => (
          <HeroRow
            key={e.page.row.id}
            entry={e}
            leads={i === 0}
            isForecast={gains !== undefined}
            twin={twinOf(e)}
            most={most}
            plot={plot}
          />
        ))}
      </ul>
    </section>
  );
}

interface RowProps {
  readonly entry: HeroEntry;
  /** The first row. */
  readonly leads: boolean;
  /** What its fixes win has been forecast. */
  readonly isForecast: boolean;
  readonly twin?: { readonly page: HeroEntry['page']; readonly picture: HeroEntry['picture'] };
  readonly most: number;
  readonly plot: number;
}

function HeroRow({ entry, leads, isForecast, twin, most, plot }: RowProps) {
  const bench = useBench();
  const { page, picture, gains, like } = entry;
  const { hero, element } = picture;
  return (
    <li>
      <div className="hero-shots">
        <Shot page={page} picture={picture} leads={leads} />
        {twin && <Shot page={twin.page} picture={twin.picture} leads={leads} />}
      </div>
      <div className="hero-says">
        <p className="hero-title">
          <To to={`/sites/${bench.siteId}/pages/${page.row.id}`}>
            <b>{page.row.title || pathOf(page.row.page)}</b>
          </To>{' '}
          <span className="mono soft">{pathOf(page.row.page)}</span>
        </p>
        <div className="hero-bar">
          <svg
            width={plot}
            height={14}
            role="img"
            aria-label={`Hero paint of ${page.row.title}: ${SPLIT_PARTS.map((p) => `${p.name} ${ms(hero.split[p.key])}`).join(', ')}`}
          >
            {splitLayout(hero.split, most, plot).map((p) => (
              <rect
                key={p.key}
                x={p.x}
                y={p.key === 'untilFoundMs' ? 5 : 1}
                width={Math.max(p.ms > 0 ? 1 : 0, p.width)}
                height={p.key === 'untilFoundMs' ? 4 : 12}
                className={`split-part now ${p.key}`}
              >
                <title>{`${p.name}: ${ms(p.ms)}`}</title>
              </rect>
            ))}
          </svg>
          <span className="cost">{ms(sum(SPLIT_PARTS, (p) => hero.split[p.key]))}</span>
        </div>
        <p className="small">
          <span className="mono">{element.tag ?? element.kind}</span>
          {element.url && <span className="mono soft break"> {fileName(element.url)}</span>}
          {element.seen ? '' : ' (guessed: the file has no observations)'}. {queueSentence(hero)}
        </p>
        <FieldLine row={page.field} metrics={['lcpMs']} bare />
        {picture.late.length > 0 && (
          <ul className="hero-late small">
            {picture.late.map((f) => (
              <li key={f.id}>
                <To to={`/sites/${bench.siteId}/pages/${page.row.id}?tab=findings&finding=${f.id}`}>{f.title}</To>
              </li>
            ))}
          </ul>
        )}
        {gains.map(({ group, savedMs }) => {
          const on = bench.chosen.includes(group.id);
          return (
            <div key={group.id} className="fix-line">
              <button className={on ? 'put on' : 'put'} aria-pressed={on} onClick={() => bench.toggle(group.id)}>
                {on ? 'on the bench' : 'Put on the bench'}
              </button>
              <span>{group.title}</span>
              <b className="gain">{ms(savedMs)} less here</b>
            </div>
          );
        })}
        {gains.length === 0 && isForecast && <p className="soft small">No single fix paints it earlier.</p>}
        {like.length > 0 && <Like like={like} name={page.template?.name ?? 'this template'} />}
      </div>
    </li>
  );
}

/** The pages that one of their template stands for; there may be hundreds, and few ask for them. */
function Like({ like, name }: { readonly like: HeroEntry['like']; readonly name: string }) {
  const { siteId } = useBench();
  const [isOpen, setOpen] = useState(false);
  return (
    <details className="small" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="soft">
        {count(like.length, 'more page')} of {name}
      </summary>
      <ul>
        {isOpen &&
          like.map((l) => (
            <li key={l.page.row.id}>
              <To to={`/sites/${siteId}/pages/${l.page.row.id}`}>{l.page.row.title}</To>{' '}
              <span className="cost">{ms(l.picture.hero.lcpMs)}</span>
            </li>
          ))}
      </ul>
    </details>
  );
}

function Shot({ page, picture, leads }: NonNullable<RowProps['twin']> & Pick<RowProps, 'leads'>) {
  const name = page.row.device === 'phone' ? 'Phone' : 'Desktop';
  return (
    <figure>
      <FirstScreen
        shot={page.row.screenshotHash}
        alt={`First screen of ${page.row.title}, ${page.row.device}`}
        screen={picture.screen}
        hero={picture.element.box}
        width={HERO_WIDTH}
        most={TALLEST}
        leads={leads}
      />
      <figcaption className="small">
        {name} <span className="cost">{ms(picture.hero.lcpMs)}</span>
      </figcaption>
    </figure>
  );
}
