import { useState } from 'react';
import { PAGE_FACTS, type PageFact, type PageGrouping } from '../../core/site/pageFilter';
import type { PageGroup } from '../../engine/store/pageSummary';
import { bytes, ms } from '../ui/format';
import { SortHead, sortRows, type Sort } from '../ui/SortHead';

type Column = 'name' | 'pages' | 'answerMs' | 'decodedBytes' | 'linksIn' | 'mentions' | 'errors' | 'captures';

const NAMES: Readonly<Record<Exclude<PageGrouping, PageFact>, string>> = {
  folder: 'Folder',
  template: 'Template',
  status: 'Status',
  depth: 'Links from the home page',
};

/** What pages are grouped by, in words. */
export const groupingName = (by: PageGrouping): string =>
  by in PAGE_FACTS ? PAGE_FACTS[by as PageFact] : NAMES[by as keyof typeof NAMES];

const whole = (n: number) => n.toLocaleString('en-GB');
const share = (n: number, of: number) => (of > 0 ? `${((n / of) * 100).toFixed(1)} %` : '');

/** Pages by a fact with totals and shares; a click shows the pages of one group. */
export function Groups(props: {
  by: PageGrouping;
  groups: readonly PageGroup[];
  /** The group that is opened. */
  onOpen: (value: string) => void;
}) {
  const [sort, setSort] = useState<Sort<Column>>({ by: 'pages', down: true });
  const rows = sortRows(props.groups, sort, (g, by) => g[by] ?? 0);
  const sum = (of: 'pages' | 'captures' | 'errors' | 'linksIn' | 'mentions') =>
    props.groups.reduce((all, g) => all + g[of], 0);
  const mean = (of: 'answerMs' | 'decodedBytes') => {
    const known = props.groups.filter((g) => g[of] !== null);
    const pages = known.reduce((all, g) => all + g.pages, 0);
    return pages === 0 ? null : known.reduce((all, g) => all + (g[of] ?? 0) * g.pages, 0) / pages;
  };
  const head = (by: Column, name: string) => (
    <SortHead by={by} sort={sort} onSort={setSort} right={by !== 'name'} downFirst={by !== 'name'}>
      {name}
    </SortHead>
  );
  const total = sum('pages');
  return (
    <table className="rows">
      <thead>
        <tr>
          {head('name', groupingName(props.by))}
          {head('pages', 'Pages')}
          <th className="right">Share</th>
          {head('captures', 'Recorded')}
          {head('errors', 'Errors')}
          {head('linksIn', 'Links in')}
          {head('mentions', 'http:// URLs')}
          {head('answerMs', 'Answer, average')}
          {head('decodedBytes', 'HTML, average')}
        </tr>
      </thead>
      <tbody>
        {rows.map((g) => (
          <tr key={g.value} className="clickable" onClick={() => props.onOpen(g.value)}>
            <td>
              <button className="link mono" onClick={(e) => (e.stopPropagation(), props.onOpen(g.value))}>
                {g.name || 'none'}
              </button>
            </td>
            <Figures group={g} total={total} />
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <th scope="row">All</th>
          <Figures
            total={total}
            group={{
              pages: total,
              captures: sum('captures'),
              errors: sum('errors'),
              linksIn: sum('linksIn'),
              mentions: sum('mentions'),
              answerMs: mean('answerMs'),
              decodedBytes: mean('decodedBytes'),
            }}
          />
        </tr>
      </tfoot>
    </table>
  );
}

function Figures({ group: g, total }: { group: Omit<PageGroup, 'value' | 'name'>; total: number }) {
  return (
    <>
      <td className="right">{whole(g.pages)}</td>
      <td className="right soft">{share(g.pages, total)}</td>
      <td className="right">{whole(g.captures)}</td>
      <td className={g.errors > 0 ? 'right cost' : 'right'}>{whole(g.errors)}</td>
      <td className="right">{whole(g.linksIn)}</td>
      <td className="right">{whole(g.mentions)}</td>
      <td className="right">{g.answerMs === null ? '–' : ms(g.answerMs)}</td>
      <td className="right">{g.decodedBytes === null ? '–' : bytes(g.decodedBytes)}</td>
    </>
  );
}
