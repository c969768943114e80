import { useRef, useState } from 'react';
import { pathOf } from '../../core/capture/url';
import type { LinkRow, PageView } from '../../engine/store/pageFacts';
import type { JobRow } from '../../engine/store/jobs';
import { ask, shownError, useResource, type ShownError } from '../state/api';
import { useBench } from '../state/bench';
import { go, useLocation } from '../state/location';
import { bytes, count, dayTime, ms } from '../ui/format';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { SearchBox } from '../ui/SearchBox';
import { useKeys } from '../ui/useKeys';
import { SetTo } from '../ui/SetTo';
import { To } from '../ui/To';
import { island } from '../frame/island';

const TABS = ['facts', 'in', 'out', 'mentions', 'headers'] as const;
type Tab = (typeof TABS)[number];

/** One page of a sweep: what it answered, where it leads, who links to it and whom it links to. */
export function PageFactsScreen({ id }: { id: number }) {
  const page = useResource<PageView>(`/api/pages/${id}`);
  const { query } = useLocation();
  const tab = TABS.find((t) => t === query.get('tab')) ?? 'facts';
  if (page.error) return <ErrorBox error={page.error} retry={page.reload} />;
  const p = page.value;
  if (!p) return <Loading what="Reading the page" />;
  const button = (name: Tab, label: string, n?: number) => (
    <SetTo role="tab" aria-selected={tab === name} className={tab === name ? 'on' : ''} changes={{ tab: name }}>
      {label} {n !== undefined && <span className="soft normal">{n.toLocaleString('en-GB')}</span>}
    </SetTo>
  );
  return (
    <>
      <div className="page-head">
        <h1 className="serif">{p.title || pathOf(p.url)}</h1>
        <a className="mono small" href={p.url} target="_blank" rel="noreferrer noopener">
          {p.url}
        </a>
      </div>
      <Verdict page={p} />
      <Recorded page={p} />
      <div className="tabs" role="tablist">
        {button('facts', 'Facts')}
        {button('in', 'Links in', p.linksInTotal)}
        {button('out', 'Links out', p.linksOutTotal)}
        {button('mentions', 'http:// URLs', p.mentionList.length)}
        {button('headers', 'Headers')}
      </div>
      {tab === 'facts' && <Facts page={p} />}
      {tab === 'in' && <Links rows={p.inLinks} total={p.linksInTotal} way="in" />}
      {tab === 'out' && <Links rows={p.outLinks} total={p.linksOutTotal} way="out" />}
      {tab === 'mentions' && <Mentions page={p} />}
      {tab === 'headers' && <Headers page={p} />}
    </>
  );
}

/** What is to be said of the page first. */
function Verdict({ page: p }: { page: PageView }) {
  const said: string[] = [];
  if (p.state === 'failed' || p.state === 'skipped') said.push(p.why ?? p.state);
  if (p.hops.length > 0)
    said.push(
      `It redirects ${count(p.hops.length, 'time')}, to ${p.finalUrl ?? 'nowhere'}${p.finalStatus === 0 ? ', a redirect loop' : ''}.`,
    );
  if ((p.status ?? 0) >= 400)
    said.push(`Status ${p.status ?? ''}; links to it: ${(p.linksIn ?? 0).toLocaleString('en-GB')}.`);
  if (p.state === 'done' && p.status === 200 && p.linksIn === 0 && p.origin !== 'home')
    said.push('No page of the sweep links to it.');
  if (p.linksMissing) said.push(`It has ${count(p.linksMissing, 'broken link')}.`);
  if (p.linksRedirected)
    said.push(`It links to ${count(p.linksRedirected, 'address that redirects', 'addresses that redirect')}.`);
  const own = p.mentionList.filter((m) => m.own).length;
  if (own > 0) said.push(`Its source has ${count(own, 'http:// URL')} of this site.`);
  for (const note of p.details?.notes ?? []) said.push(note);
  if (said.length === 0) return null;
  return <p className="lead">{said.join(' ')}</p>;
}

/** Its captures, or those that speak for it, and the way to one of its own. */
function Recorded({ page: p }: { page: PageView }) {
  const { siteId } = useBench();
  const [error, setError] = useState<ShownError>();
  const recordable = p.state === 'done' && p.status === 200;
  const record = () =>
    ask<JobRow>(`/api/sites/${siteId}/recordings`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ sweepId: p.sweepId, urls: [p.url] }),
    })
      .then((job) => go(`/sites/${siteId}/jobs/${job.id}`))
      .catch((e: unknown) => setError(shownError(e)));
  const list = p.captures.length > 0 ? p.captures : p.likeCaptures;
  return (
    <>
      <p className="tools">
        {list.length > 0 && (
          <span>
            {p.captures.length > 0 ? (
              'Recorded: '
            ) : (
              <Term means="This page was not recorded itself. What is said of its load comes from recorded pages of the same structure.">
                Its load is like that of
              </Term>
            )}{' '}
            {list.slice(0, 4).map((c) => (
              <button
                key={c.id}
                className="link"
                onClick={() =>
                  go(
                    `/sites/${siteId}/pages/${c.id}?sweep=${p.sweepId}${c.device === 'desktop' ? '&visitor=desktop' : ''}`,
                  )
                }
              >
                {p.captures.length > 0 ? '' : `${pathOf(c.page)} `}
                {c.device}
              </button>
            ))}
          </span>
        )}
        {recordable && (
          <button data-needs="auditor" className="button" onClick={() => void record()}>
            {p.captures.length > 0 ? 'Record it again' : 'Record it with a browser'}
          </button>
        )}
      </p>
      {error && <ErrorBox error={error} />}
    </>
  );
}

function Facts({ page: p }: { page: PageView }) {
  const rows: (readonly [string, React.ReactNode])[] = [
    ['Status', p.status ?? p.state],
    ['Fetched', p.fetchedAt ? dayTime(p.fetchedAt) : '–'],
    [
      'Response time',
      p.answerMs === null ? '–' : `${ms(p.answerMs)} to the first byte, ${ms(p.totalMs ?? 0)} to the last`,
    ],
    ['Content type', p.type ?? '–'],
    [
      'Size',
      p.decodedBytes === null
        ? '–'
        : `${bytes(p.decodedBytes)}, transferred as ${bytes(p.transferBytes ?? 0)}${p.encoding ? ` (${p.encoding})` : ', not compressed'}`,
    ],
    ['Protocol', p.protocol ?? '–'],
    ['Character encoding', p.details?.charset ?? '–'],
    ['Title', p.title ?? '–'],
    ['Language', p.language ?? '–'],
    ['Canonical', p.canonical === null ? '–' : p.canonical === p.url ? 'itself' : p.canonical],
    ['Robots directives', p.robots || 'none'],
    ['Base', p.base ?? 'none'],
    ['Depth', p.depth === null ? 'no links in' : count(p.depth, 'link') + ' from the home page'],
    ['Found by', p.origin],
    ['In sitemap', p.inSitemap ?? 'none'],
    ['Template', p.templateName ? `${p.templateName}, ${count(p.templatePages ?? 0, 'page')}` : '–'],
    ['Elements', p.elements?.toLocaleString('en-GB') ?? '–'],
    ['Text hash', p.textHash ?? '–'],
  ];
  return (
    <div className="facts wide">
      {p.hops.length > 0 && (
        <section>
          <h2>Redirect chain</h2>
          <ol className="hops">
            {p.hops.map((h) => (
              <li key={h.url}>
                <span className="mono small">{h.url}</span>{' '}
                <b>{h.kind === 'meta' ? 'meta refresh' : h.status || h.fault}</b>{' '}
                <span className="soft">{ms(h.ms)}</span>
              </li>
            ))}
            <li>
              <span className="mono small">{p.finalUrl}</span> <b>{p.finalStatus || 'redirect loop'}</b>
            </li>
          </ol>
        </section>
      )}
      <dl>
        {rows.map(([name, value]) => (
          <div key={name} className="fact">
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {(p.details?.hreflang.length ?? 0) > 0 && (
        <section>
          <h2>Other languages (hreflang)</h2>
          <table className="plain">
            <tbody>
              {p.details?.hreflang.map((h) => (
                <tr key={h.language + h.url}>
                  <td>{h.language}</td>
                  <td className="mono small">{h.url}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      )}
    </div>
  );
}

function Links({ rows, total, way }: { rows: readonly LinkRow[]; total: number; way: 'in' | 'out' }) {
  const { base } = useBench();
  const search = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  useKeys({ '/': () => search.current?.focus() });
  const shown = rows.filter((r) => `${r.url} ${r.text} ${r.title ?? ''}`.toLowerCase().includes(words.toLowerCase()));
  if (total === 0)
    return <p className="soft">{way === 'in' ? 'No page of the sweep links to it.' : 'No outgoing links.'}</p>;
  return (
    <>
      <div className="tools">
        <SearchBox what="links" box={search} value={words} onChange={setWords} />
        <span className="soft">
          {shown.length.toLocaleString('en-GB')} of {count(total, 'link')}
          {total > rows.length && ', the first thousand'}
        </span>
      </div>
      <div className="scroll">
        <table className="rows">
          <thead>
            <tr>
              <th>{way === 'in' ? 'From' : 'To'}</th>
              <th>Text</th>
              <th>Element</th>
              <th className="right">Line</th>
              {way === 'out' && <th>Answer</th>}
            </tr>
          </thead>
          <tbody>
            {shown.map((r, i) => (
              <tr key={i}>
                <td className="mono small wide-cell">
                  {r.pageId === null ? (
                    <span className="soft">{r.url}</span>
                  ) : (
                    <To className="link" to={`${base}/facts/${r.pageId ?? ''}`}>
                      {pathOf(r.url)}
                    </To>
                  )}
                </td>
                <td>{r.text}</td>
                <td className="mono small soft">
                  {r.tag} {r.attribute}
                  {r.rel && ` rel=${r.rel}`}
                </td>
                <td className="right">
                  {r.line}:{r.column}
                </td>
                {way === 'out' && (
                  <td>{r.pageId === null ? <span className="soft">another site</span> : <End link={r} />}</td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

function End({ link: r }: { link: LinkRow }) {
  if (r.status === null) return <span className="soft">not fetched</span>;
  if ((r.hopCount ?? 0) > 0)
    return (
      <span title={r.finalUrl ?? undefined}>
        {r.status}, through {count(r.hopCount ?? 0, 'redirect')} to {r.finalStatus || 'a circle'}
      </span>
    );
  return <span className={r.status >= 400 ? 'cost strong' : ''}>{r.status}</span>;
}

function Mentions({ page: p }: { page: PageView }) {
  if (p.mentionList.length === 0) return <p className="soft">Its source has no http:// URL.</p>;
  const use: Readonly<Record<string, string>> = {
    load: 'loaded',
    link: 'a link',
    hint: 'a hint',
    form: 'a form',
    canonical: 'canonical',
    alternate: 'another version',
    social: 'a social tag',
    base: 'the base of links',
  };
  return (
    <div className="scroll">
      <table className="rows">
        <thead>
          <tr>
            <th>Address</th>
            <th>Whose</th>
            <th>Used as</th>
            <th>Element</th>
            <th className="right">Line</th>
          </tr>
        </thead>
        <tbody>
          {p.mentionList.map((m, i) => (
            <tr key={i}>
              <td className="wide-cell">
                <span className="mono small">{m.url}</span>
                <code className="source-line soft">{m.source}</code>
              </td>
              <td>{m.own ? <b>the site's own</b> : <span className="soft">another site's</span>}</td>
              <td>{use[m.use] ?? m.use}</td>
              <td className="mono small soft">
                {m.tag} {m.attribute}
              </td>
              <td className="right">
                {m.line}:{m.column}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Headers({ page: p }: { page: PageView }) {
  const list = Object.entries(p.details?.headers ?? {});
  if (list.length === 0) return <p className="soft">No cache or security header came with it.</p>;
  return (
    <table className="rows">
      <tbody>
        {list.map(([name, value]) => (
          <tr key={name}>
            <td className="mono small">{name}</td>
            <td className="mono small wide-cell">{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

export default island(PageFactsScreen, 'site');
