import { hostOf, pathOf } from '../../core/capture/url';
import { deviceOf } from '../../core/load/visitors';
import type { ChainLink, FirstPaintPicture } from '../../core/pictures/blocking';
import type { TemplateChain, TemplateChains } from '../../engine/services/loadPictures';
import type { OverviewPage } from '../../engine/services/sweepOverview';
import { picturesPath } from '../hero/heroPages';
import { useResource } from '../state/api';
import { FieldLine } from '../field/FieldLine';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { bytes, count, ms } from '../ui/format';
import { ErrorBox, Loading, MEANS, Term } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { useWidth } from '../ui/useWidth';
import { chainLayout, linkName, NAMED_ROW, ROW } from './chainLayout';

/** Chains that are drawn before somebody asks for all. */
const SHOWN = 3;
const GAIN_SHOWN_MS = 20;

interface Entry {
  readonly page: OverviewPage;
  readonly picture: TemplateChain;
  readonly like: number;
}

/** What stands between the visitor and the first paint: the longest chain of each template, drawn in time. */
export function BlockingChains() {
  const { sweepId, visitor, data } = useBench();
  const { query } = useLocation();
  const { ref, width } = useWidth(300);
  const found = useResource<TemplateChains>(
    sweepId === undefined ? undefined : picturesPath('chains', sweepId, visitor.id),
  );
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value || !data.value) return <Loading what="Simulating the recorded pages" />;
  const byId = new Map(data.value.pages.map((p) => [p.row.id, p]));
  const entries = found.value.chains.flatMap((picture): Entry[] => {
    const page = byId.get(picture.captureId);
    return page ? [{ page, picture, like: picture.like }] : [];
  });
  const all = query.get('chains') === 'all';
  const shown = all ? entries : entries.slice(0, SHOWN);
  const most = Math.max(1, ...entries.map((e) => e.picture.firstPaint.fcpMs));
  const [first] = entries;
  return (
    <section aria-label="Chains to the first paint" ref={ref}>
      {first && <p className="serif big">{sentence(first, deviceOf(visitor))}</p>}
      <p className="soft small chain-key">
        <span>
          <i className="chain-swatch used" aria-hidden /> used: styles above the fold, functions that ran
        </span>
        <span>
          <i className="chain-swatch unused" aria-hidden /> not used
        </span>
        <span>
          <i className="chain-swatch unknown" aria-hidden /> not examined
        </span>
        <span>
          <i className="chain-swatch work" aria-hidden /> running or painting
        </span>
      </p>
      {shown.map((e) => (
        <Chain key={e.page.row.id} entry={e} most={most} width={width} />
      ))}
      {entries.length > SHOWN && (
        <p>
          <SetTo role="button" className="link" aria-pressed={all} changes={{ chains: all ? null : 'all' }}>
            {all ? 'Only the longest' : `All ${entries.length} templates`}
          </SetTo>
        </p>
      )}
    </section>
  );
}

/** A link that wins less than this share of the wait alone decides nothing. */
const DECIDES = 0.1;

function sentence({ page, picture }: Entry, device: string): string {
  const { chain, fcpMs, withoutAllMs } = picture.firstPaint;
  const [best] = [...chain].sort((a, b) => (b.withoutMs ?? 0) - (a.withoutMs ?? 0));
  const lead = `A ${device} visitor sees nothing of ${page.row.title || pathOf(page.row.page)} for ${ms(fcpMs)}.`;
  const all =
    withoutAllMs < GAIN_SHOWN_MS
      ? 'Scripts and stylesheets do not hold it back: the page itself comes late.'
      : `If it waited for no script and no stylesheet, that would be ${ms(withoutAllMs)} less`;
  if (withoutAllMs < GAIN_SHOWN_MS) return `${lead} ${all}`;
  return best?.withoutMs !== undefined && best.withoutMs >= DECIDES * fcpMs
    ? `${lead} ${all}; ${linkName(best).replace(/^run /, '')} alone makes ${ms(best.withoutMs)} of it.`
    : `${lead} ${all}; no single one decides, since several arrive at about the same time.`;
}

function Chain({ entry, most, width }: { entry: Entry; most: number; width: number }) {
  const { siteId } = useBench();
  const { page, picture, like } = entry;
  const wide = width > 560;
  const names = wide ? 190 : 0;
  const gains = wide ? 150 : 0;
  const plot = Math.max(160, width - names - gains);
  const row = wide ? ROW : NAMED_ROW;
  const chain = chainLayout(picture.firstPaint, most, plot, row);
  return (
    <figure className="chart chain">
      <figcaption>
        <To to={`/sites/${siteId}/pages/${page.row.id}`}>
          <b>{page.row.title || pathOf(page.row.page)}</b>
        </To>{' '}
        <span className="mono soft">{pathOf(page.row.page)}</span> <Term means={MEANS.fcp}>first paint</Term>{' '}
        <span className="cost">{ms(picture.firstPaint.fcpMs)}</span>
        {like > 0 && <span className="soft">, and {count(like, 'more page')} of its template</span>}
        <FieldLine row={page.field} metrics={['fcpMs']} />
      </figcaption>
      <svg
        width={width}
        height={chain.height + 20}
        role="img"
        aria-label={`Chain to the first paint of ${page.row.title}: ${picture.firstPaint.chain.map((l) => `${linkName(l)} until ${ms(l.toMs)}`).join(', ')}`}
      >
        <g transform={`translate(${names},0)`}>
          {chain.ticks.map((t) => (
            <g key={t.ms}>
              <line x1={t.x} x2={t.x} y1={0} y2={chain.height} className="chain-grid" />
              <text x={t.x} y={chain.height + 14} textAnchor={t.x === 0 ? 'start' : 'middle'}>
                {ms(t.ms)}
              </text>
            </g>
          ))}
          {chain.turns.map((t, i) => (
            <path key={i} d={`M${t.x1},${t.y1}V${(t.y1 + t.y2) / 2}H${t.x2}V${t.y2}`} className="chain-turn" />
          ))}
          {chain.links.map(({ link, name, x, y, width: wideOf, used }, i) => (
            <g key={i}>
              <title>{`${name}: ${ms(link.fromMs)} to ${ms(link.toMs)}; ${[link.why, usedText(link)].filter(Boolean).join('; ')}`}</title>
              <rect
                x={x}
                y={y + row - ROW + 4}
                width={wideOf}
                height={ROW - 9}
                className={
                  link.step === 'fetch' ? (used === undefined ? 'chain-link' : 'chain-link unused') : 'chain-link work'
                }
              />
              {used !== undefined && link.step === 'fetch' && (
                <rect x={x} y={y + row - ROW + 4} width={used} height={ROW - 9} className="chain-link used" />
              )}
              {!wide && (
                <text x={Math.max(0, Math.min(x, plot - 150))} y={y + 10} className="k halo">
                  {name}
                </text>
              )}
            </g>
          ))}
        </g>
        {wide &&
          chain.links.map(({ link, name, y }, i) => (
            <g key={i}>
              <text x={0} y={y + 15} className="k">
                {cut(name, link.thirdParty ? 20 : 29)}
                {link.thirdParty && <tspan className="cost"> third party</tspan>}
              </text>
              {(link.withoutMs ?? 0) >= GAIN_SHOWN_MS && (
                <text x={names + plot + 8} y={y + 15} className="gain">
                  {ms(link.withoutMs ?? 0)} less without it
                </text>
              )}
            </g>
          ))}
      </svg>
      <ChainTable picture={picture.firstPaint} />
    </figure>
  );
}

const cut = (text: string, most: number) => (text.length > most ? `${text.slice(0, most - 1)}…` : text);

/** How much of a file is used, and by what that is told. */
function usedText({ usedShare, kind, step }: ChainLink): string {
  if (usedShare === undefined || step !== 'fetch') return '';
  return `${Math.round(100 * usedShare)} % ${kind === 'script' ? 'ran while the page loaded' : 'above the fold'}`;
}

function ChainTable({ picture }: { picture: FirstPaintPicture }) {
  return (
    <details className="twin">
      <summary>The same as a table</summary>
      <table>
        <thead>
          <tr>
            <th>Link</th>
            <th>Host</th>
            <th>From</th>
            <th>To</th>
            <th>Bytes</th>
            <th>Used</th>
            <th>Why not earlier</th>
            <th>First paint without it</th>
          </tr>
        </thead>
        <tbody>
          {picture.chain.map((l, i) => (
            <tr key={i}>
              <td>{linkName(l)}</td>
              <td>
                {l.url ? hostOf(l.url) : ''}
                {l.thirdParty ? ' (third party)' : ''}
              </td>
              <td>{ms(l.fromMs)}</td>
              <td>{ms(l.toMs)}</td>
              <td>{l.bytes > 0 ? bytes(l.bytes) : ''}</td>
              <td>{usedText(l)}</td>
              <td>{l.why}</td>
              <td>{l.withoutMs === undefined ? '' : `${ms(l.withoutMs)} less`}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}
