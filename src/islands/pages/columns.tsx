import type { ReactNode } from 'react';
import { pathOf } from '../../core/capture/url';
import type { PageColumn } from '../../core/handover/pagesTable';
import type { PageRow } from '../../engine/store/pageList';
import { bytes, ms } from '../ui/format';

/** A column of the Pages table. */
export interface Column {
  readonly key: PageColumn | 'page' | 'hero';
  readonly name: string;
  readonly means?: string;
  /** Share of the width, in px at least. */
  readonly width: number;
  readonly right?: boolean;
  /** Sorted downwards at the first click. */
  readonly down?: boolean;
  readonly cell: (row: PageRow, extra: { template?: string; hero?: ReactNode }) => ReactNode;
}

const number = (n: number | null) => (n === null ? '–' : n.toLocaleString('en-GB'));
const marked = (n: number | null) => (n ? <b>{number(n)}</b> : <span className="soft">{n === null ? '–' : 0}</span>);

/** Every column that can be shown; the first is always there. */
export const COLUMNS: readonly Column[] = [
  {
    key: 'page',
    name: 'Page',
    width: 220,
    cell: (r) => (
      <>
        <span className="cut">{r.title || pathOf(r.url)}</span>
        <span className="cut mono small soft" title={r.url}>
          {r.url.startsWith('http://') ? r.url : pathOf(r.url)}
        </span>
      </>
    ),
  },
  {
    key: 'status',
    name: 'Status',
    width: 60,
    cell: (r) =>
      r.status === null ? (
        <span className={r.state === 'failed' ? 'cost' : 'soft'} title={r.why ?? undefined}>
          {r.state}
        </span>
      ) : (
        <span className={r.status >= 400 ? 'cost strong' : ''}>{r.status}</span>
      ),
  },
  {
    key: 'hero',
    name: 'Hero paint (LCP)',
    means:
      'Of its own recording, or ≈ from a recorded page of the same template. Beneath it, where known, what three of four real visits had (p75).',
    width: 96,
    right: true,
    cell: (_, x) => x.hero,
  },
  {
    key: 'depth',
    name: 'Depth',
    means: 'Fewest links from the home page; – where none leads.',
    width: 58,
    right: true,
    cell: (r) => number(r.depth),
  },
  {
    key: 'linksIn',
    name: 'Links in',
    means: 'Pages of the sweep that link to it.',
    width: 68,
    right: true,
    down: true,
    cell: (r) => number(r.linksIn),
  },
  {
    key: 'linksOut',
    name: 'Links out',
    means: 'Links on it.',
    width: 72,
    right: true,
    down: true,
    cell: (r) => number(r.linksOut),
  },
  {
    key: 'linksMissing',
    name: 'Broken links',
    means: 'Pages it links to that answer with an error.',
    width: 78,
    right: true,
    down: true,
    cell: (r) => marked(r.linksMissing),
  },
  {
    key: 'linksRedirected',
    name: 'Via redirects',
    means: 'Pages it links to that redirect.',
    width: 92,
    right: true,
    down: true,
    cell: (r) => marked(r.linksRedirected),
  },
  {
    key: 'mentions',
    name: 'http',
    means: 'Places in its source that name an http:// URL.',
    width: 52,
    right: true,
    down: true,
    cell: (r) => marked(r.mentions),
  },
  {
    key: 'answerMs',
    name: 'Response time',
    means: 'From the request to the first byte of the response, in the crawl.',
    width: 74,
    right: true,
    down: true,
    cell: (r) => (r.answerMs === null ? '–' : ms(r.answerMs)),
  },
  {
    key: 'decodedBytes',
    name: 'HTML',
    means: 'The document after decoding.',
    width: 68,
    right: true,
    down: true,
    cell: (r) => (r.decodedBytes === null ? '–' : bytes(r.decodedBytes)),
  },
  {
    key: 'transferBytes',
    name: 'Travelled',
    means: 'The document as transferred.',
    width: 76,
    right: true,
    down: true,
    cell: (r) => (r.transferBytes === null ? '–' : bytes(r.transferBytes)),
  },
  { key: 'encoding', name: 'Encoding', width: 62, cell: (r) => r.encoding ?? '–' },
  { key: 'protocol', name: 'Protocol', width: 72, cell: (r) => r.protocol ?? '–' },
  {
    key: 'template',
    name: 'Template',
    means: 'Pages of one structure, named by the path they share.',
    width: 130,
    cell: (_, x) => <span className="cut">{x.template ?? '–'}</span>,
  },
  { key: 'folder', name: 'Folder', width: 100, cell: (r) => <span className="cut mono small">{r.folder}</span> },
  {
    key: 'finalUrl',
    name: 'Redirects to',
    means: 'Where its redirect chain ends.',
    width: 190,
    cell: (r) =>
      r.hopCount > 0 ? (
        <span className="cut mono small" title={r.finalUrl ?? undefined}>
          {pathOf(r.finalUrl ?? '')}
        </span>
      ) : (
        '–'
      ),
  },
  { key: 'hopCount', name: 'Redirects', width: 74, right: true, down: true, cell: (r) => marked(r.hopCount) },
  {
    key: 'canonical',
    name: 'Canonical',
    width: 190,
    cell: (r) => (
      <span className="cut mono small" title={r.canonical ?? undefined}>
        {r.canonical === null ? '–' : r.canonical === r.url ? 'itself' : r.canonical}
      </span>
    ),
  },
  { key: 'robots', name: 'Robots', width: 110, cell: (r) => r.robots || '–' },
  {
    key: 'inSitemap',
    name: 'Sitemap',
    width: 130,
    cell: (r) => (
      <span className="cut mono small" title={r.inSitemap ?? undefined}>
        {r.inSitemap === null ? '–' : pathOf(r.inSitemap)}
      </span>
    ),
  },
  { key: 'language', name: 'Language', width: 76, cell: (r) => r.language ?? '–' },
  { key: 'type', name: 'Type', width: 120, cell: (r) => <span className="cut">{r.type ?? '–'}</span> },
  { key: 'elements', name: 'Elements', width: 74, right: true, down: true, cell: (r) => number(r.elements) },
  { key: 'origin', name: 'Found by', width: 76, cell: (r) => r.origin },
];

/** What is shown until somebody chooses. */
export const DEFAULT_COLUMNS = [
  'page',
  'status',
  'hero',
  'depth',
  'linksIn',
  'mentions',
  'answerMs',
  'template',
] as const;
