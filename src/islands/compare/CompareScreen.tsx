import { mean } from 'd3';
import { CONCERNS, type Concern } from '../../core/checks/concern';
import { fileName, pathOf } from '../../core/capture/url';
import { statesOf, type PageThenNow, type CountedCause, type ShownComparison } from '../../core/pictures/compare';
import type { SweepCause } from '../../core/site/news';
import { island } from '../frame/island';
import { useResource } from '../state/api';
import { FieldLine } from '../field/FieldLine';
import { Change } from './Change';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { bytes, count, day, ms } from '../ui/format';
import { ErrorBox, HarmMark, Loading } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { comparePath, partPath } from './comparePath';
import { SlopesChart } from './SlopesChart';

/** Rows of a list before somebody asks for all. */
const SHOWN = 12;
/** Causes that stayed come without their pages. */
type AnyCause = SweepCause | CountedCause;

const STATES = ['new', 'came back', 'gone', 'stayed', 'not looked at again'] as const;

/** Two sweeps beside each other: pages as slopes, findings, files, facts, entrances. */
function CompareScreen() {
  const { sweepId, visitor, siteId } = useBench();
  const { query } = useLocation();
  const path = sweepId === undefined ? undefined : comparePath(sweepId, visitor.id, query);
  const found = useResource<ShownComparison | null>(path);
  const body = () => {
    if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
    if (found.value === undefined) return <Loading what="Simulating both sweeps" />;
    if (found.value === null)
      return (
        <p>
          There is no other sweep with recordings yet. After the next one you see here what changed.{' '}
          <To data-needs="auditor" className="link" to={`/sites/${siteId}/sweep`}>
            Sweep again
          </To>
        </p>
      );
    return <Compared found={found.value} path={path ?? ''} />;
  };
  return (
    <>
      <h1 className="serif">Then &amp; now</h1>
      <p className="soft lead">What changed between two sweeps: choose them in the bar above.</p>
      {body()}
    </>
  );
}

function Compared({ found, path }: { found: ShownComparison; path: string }) {
  return (
    <>
      <p className="serif big">{sentence(found)}</p>
      <p className="tools">
        <a className="export" href={`${path}&format=xlsx`}>
          Export all as XLSX
        </a>
      </p>
      <Pages found={found} path={path} />
      <Findings found={found} path={path} />
      <Files found={found} path={path} />
      <Facts found={found} path={path} />
      <Entrances found={found} path={path} />
    </>
  );
}

function sentence({ then, pages, news }: ShownComparison): string {
  const both = pages.filter((p) => p.then && p.now);
  const was = mean(both, (p) => p.then?.lcpMs) ?? 0;
  const is = mean(both, (p) => p.now?.lcpMs) ?? 0;
  const change =
    both.length === 0
      ? 'No page was recorded in both sweeps'
      : Math.abs(is - was) < Math.max(40, 0.03 * was)
        ? `Since ${day(then.day)} hero paint has not changed: ${ms(is)} on average over ${count(both.length, 'page')}`
        : `Since ${day(then.day)} hero paint went from ${ms(was)} to ${ms(is)} on average over ${count(both.length, 'page')}`;
  const parts = [
    news.gone.length > 0 && `${count(news.gone.length, 'cause')} resolved`,
    news.appeared.length > 0 && `${news.appeared.length} new`,
    news.cameBack.length > 0 && `${news.cameBack.length} back again`,
  ].filter(Boolean);
  return `${change}; ${parts.join(', ') || 'no finding changed'}.`;
}

interface PartProps {
  readonly found: ShownComparison;
  readonly path: string;
}

function Head({ title, path, part }: { title: string; path: string; part: Parameters<typeof partPath>[1] }) {
  return (
    <h2>
      {title}{' '}
      <a className="export normal" href={partPath(path, part)}>
        CSV
      </a>
    </h2>
  );
}

/** Opens and shuts a long list by the address. */
function More({ part, total }: { part: string; total: number }) {
  const { query } = useLocation();
  if (total <= SHOWN) return null;
  const all = query.get('all') === part;
  return (
    <p>
      <SetTo role="button" className="link" aria-pressed={all} changes={{ all: all ? null : part }}>
        {all ? 'Show fewer' : `Show all ${total.toLocaleString('en-GB')}`}
      </SetTo>
    </p>
  );
}

function shown<T>(list: readonly T[], part: string, query: URLSearchParams): readonly T[] {
  return query.get('all') === part ? list : list.slice(0, SHOWN);
}

function Pages({ found, path }: PartProps) {
  const { siteId, data } = useBench();
  const { query } = useLocation();
  const fieldOf = new Map(data.value?.pages.map((p) => [p.row.page, p.field]));
  const link = (p: PageThenNow, when: 'then' | 'now') => {
    const figures = p[when];
    if (!figures) return <span className="soft">not recorded</span>;
    const sweep = when === 'then' ? `?sweep=${found.then.id}` : '';
    return <To to={`/sites/${siteId}/pages/${figures.captureId}${sweep}`}>{ms(figures.lcpMs)}</To>;
  };
  return (
    <section aria-label="Pages">
      <Head title="Hero paint by page" path={path} part="pages" />
      <SlopesChart pages={found.pages} then={day(found.then.day)} now={day(found.now.day)} />
      <table className="grid compare">
        <thead>
          <tr>
            <th>Page</th>
            <th className="right">{day(found.then.day)}</th>
            <th className="right">{day(found.now.day)}</th>
            <th className="right">Change</th>
            <th className="right">First paint</th>
            <th className="right">Bytes</th>
          </tr>
        </thead>
        <tbody>
          {shown(found.pages, 'pages', query).map((p) => (
            <tr key={p.page}>
              <td>
                {p.title} <span className="mono small soft">{pathOf(p.page)}</span>
                <FieldLine row={fieldOf.get(p.page)} metrics={['lcpMs']} bare />
              </td>
              <td className="right">{link(p, 'then')}</td>
              <td className="right">{link(p, 'now')}</td>
              <td className="right">{p.then && p.now && <Change was={p.then.lcpMs} is={p.now.lcpMs} text={ms} />}</td>
              <td className="right">{p.then && p.now && <Change was={p.then.fcpMs} is={p.now.fcpMs} text={ms} />}</td>
              <td className="right">
                {p.then && p.now && <Change was={p.then.bytes} is={p.now.bytes} text={bytes} />}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <More part="pages" total={found.pages.length} />
    </section>
  );
}

function Findings({ found, path }: PartProps) {
  const { query } = useLocation();
  const concern = CONCERNS.find((c) => c.id === query.get('concern'))?.id;
  const state = STATES.find((s) => s === query.get('state'));
  const states = statesOf(found);
  const n = (list: readonly AnyCause[], id: Concern) => list.filter((c) => c.concern === id).length;
  const rows = states
    .filter((s) => (state ? s.state === state : s.state !== 'stayed'))
    .flatMap((s) => s.list.map((cause) => ({ state: s.state, cause })))
    .filter(({ cause }) => !concern || cause.concern === concern);
  return (
    <section aria-label="Findings">
      <Head title="Findings by cause" path={path} part="findings" />
      <table className="grid compare">
        <thead>
          <tr>
            <th>Concern</th>
            {states.map((s) => (
              <th key={s.state} className="right">
                {s.state}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {CONCERNS.map((c) => (
            <tr key={c.id}>
              <td>{c.name}</td>
              {states.map((s) => {
                const on = concern === c.id && state === s.state;
                const total = n(s.list, c.id);
                return (
                  <td key={s.state} className="right">
                    {total === 0 ? (
                      <span className="soft">0</span>
                    ) : (
                      <SetTo
                        role="button"
                        className={on ? 'strong' : 'link'}
                        aria-pressed={on}
                        aria-label={`${total} ${s.state}, ${c.name}`}
                        changes={on ? { concern: null, state: null } : { concern: c.id, state: s.state, all: null }}
                      >
                        {total}
                      </SetTo>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <ul className="compare-causes">
        {shown(rows, 'findings', query).map(({ state: what, cause }) => (
          <CauseLine key={what + cause.cause} found={found} what={what} cause={cause} />
        ))}
      </ul>
      <More part="findings" total={rows.length} />
    </section>
  );
}

function CauseLine({ found, what, cause }: { found: ShownComparison; what: string; cause: AnyCause }) {
  const { siteId } = useBench();
  const old = what === 'gone' || what === 'not looked at again';
  return (
    <li>
      <span className={what === 'gone' ? 'gain' : what === 'new' || what === 'came back' ? 'cost' : 'soft'}>
        {what}
      </span>{' '}
      <HarmMark harm={cause.harm} plain />{' '}
      <To
        to={`/sites/${siteId}/concerns/${cause.concern}?cause=${encodeURIComponent(cause.cause)}${old ? `&sweep=${found.then.id}` : ''}`}
      >
        {cause.title}
      </To>{' '}
      <span className="soft">{count(typeof cause.pages === 'number' ? cause.pages : cause.pages.length, 'page')}</span>
    </li>
  );
}

function Files({ found, path }: PartProps) {
  const { siteId } = useBench();
  const { query } = useLocation();
  const sums = (f: (typeof found.files)[number]) =>
    f.then === undefined ? 'new' : f.now === undefined ? 'gone' : f.now > f.then ? 'grown' : 'shrunk';
  const counts = (['grown', 'shrunk', 'new', 'gone'] as const).map((w) => ({
    word: w,
    n: found.files.filter((f) => sums(f) === w).length,
  }));
  const word = counts.find((c) => c.word === query.get('files'))?.word;
  const rows = found.files.filter((f) => !word || sums(f) === word);
  return (
    <section aria-label="Files">
      <Head title="Files" path={path} part="files" />
      <p className="tools">
        {counts.map((c) => (
          <SetTo
            key={c.word}
            role="button"
            className={c.word === word ? 'chip on' : 'chip'}
            aria-pressed={c.word === word}
            changes={{ files: c.word === word ? null : c.word, all: null }}
          >
            {c.word} <b>{c.n}</b>
          </SetTo>
        ))}
      </p>
      {rows.length === 0 ? (
        <p className="soft">No file of the pages that both sweeps recorded.</p>
      ) : (
        <table className="grid compare">
          <thead>
            <tr>
              <th>File</th>
              <th>State</th>
              <th className="right">Then</th>
              <th className="right">Now</th>
              <th className="right">Pages</th>
            </tr>
          </thead>
          <tbody>
            {shown(rows, 'files', query).map((f) => (
              <tr key={f.url}>
                <td className="break">
                  <To
                    to={`/sites/${siteId}/files?file=${encodeURIComponent(f.url)}${f.now === undefined ? `&sweep=${found.then.id}` : ''}`}
                  >
                    {fileName(f.url)}
                  </To>{' '}
                  <span className="mono small soft">{pathOf(f.url)}</span>
                </td>
                <td>{sums(f)}</td>
                <td className="right">{f.then === undefined ? '' : bytes(f.then)}</td>
                <td className="right">{f.now === undefined ? '' : bytes(f.now)}</td>
                <td className="right">{f.pages}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <More part="files" total={rows.length} />
    </section>
  );
}

function Facts({ found, path }: PartProps) {
  const { query } = useLocation();
  return (
    <section aria-label="Page facts">
      <Head title="Page facts" path={path} part="facts" />
      {found.pagesOfBoth === 0 ? (
        <p className="soft">No page was visited by the crawls of both sweeps.</p>
      ) : found.facts.length === 0 ? (
        <p className="soft">
          Status, title, canonical, robots, redirect and template are the same on all {count(found.pagesOfBoth, 'page')}{' '}
          of both sweeps.
        </p>
      ) : (
        <table className="grid compare">
          <thead>
            <tr>
              <th>Page</th>
              <th>Fact</th>
              <th>Then</th>
              <th>Now</th>
            </tr>
          </thead>
          <tbody>
            {shown(found.facts, 'facts', query).map((f) => (
              <tr key={f.page + f.fact}>
                <td className="mono break">{pathOf(f.page)}</td>
                <td>{f.fact}</td>
                <td className="break">{f.then ?? <span className="soft">none</span>}</td>
                <td className="break">{f.now ?? <span className="soft">none</span>}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <More part="facts" total={found.facts.length} />
    </section>
  );
}

function Entrances({ found, path }: PartProps) {
  const { query } = useLocation();
  const { entrances } = found;
  return (
    <section aria-label="Entrances and certificates">
      <Head title="Entrances and certificates" path={path} part="entrances" />
      {!entrances ? (
        <p className="soft">Not both sweeps ended with a probe.</p>
      ) : entrances.length === 0 ? (
        <p className="soft">All fare as before.</p>
      ) : (
        <table className="grid compare">
          <thead>
            <tr>
              <th>Address</th>
              <th>Then</th>
              <th>Now</th>
            </tr>
          </thead>
          <tbody>
            {shown(entrances, 'entrances', query).map((e) => (
              <tr key={e.what + e.from}>
                <td className="mono break">{e.from}</td>
                <td>{e.then}</td>
                <td className={e.better === undefined ? '' : e.better ? 'gain' : 'cost'}>{e.now}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <More part="entrances" total={entrances?.length ?? 0} />
    </section>
  );
}

export default island(CompareScreen, 'recordings');
