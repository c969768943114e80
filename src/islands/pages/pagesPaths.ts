import { PAGE_GROUPS, readPageFilter, writePageFilter } from '../../core/site/pageFilter';

/** Rows that are asked for at once. */
export const WINDOW = 200;

/** Where the pages of a sweep are listed and summed up, as the address of their screen narrows and sorts them. */
export function pagesPaths(sweepId: number, query: URLSearchParams): { list: string; summaryOf: string } {
  const filter = writePageFilter(readPageFilter((name) => query.get(name)));
  const params = new URLSearchParams(
    Object.entries(filter).flatMap(([k, v]) => (v === null ? [] : [[k, v]])),
  ).toString();
  const sort = query.get('sort') ?? 'linksIn';
  const descending = query.get('descending') !== 'false';
  return {
    list: `/api/sweeps/${sweepId}/pages?sort=${encodeURIComponent(sort)}&descending=${descending}&${params}`,
    summaryOf: `/api/sweeps/${sweepId}/pages/summary?${params}${groupOf(query)}`,
  };
}

/** The group that is asked for, where the summary has to work it out. */
function groupOf(query: URLSearchParams): string {
  const by = query.get('group') ?? '';
  return (PAGE_GROUPS as readonly string[]).includes(by) && by !== 'folder' && by !== 'template' ? `&group=${by}` : '';
}

/** One window of a list. */
export const windowOf = (list: string, n: number): string => `${list}&offset=${n * WINDOW}&limit=${WINDOW}`;
