import type { FileGroup } from '../../core/pictures/fileQuery';

/** Parameters of the address that narrow the list of files. */
export const FILE_FILTERS = [
  'type',
  'host',
  'directory',
  'cache',
  'party',
  'page',
  'template',
  'file',
  'heavy',
] as const;

/** Rows that are shown at a time. */
export const FILES_PAGE = 100;

function filterOf(query: URLSearchParams): URLSearchParams {
  const out = new URLSearchParams();
  for (const name of ['search', ...FILE_FILTERS]) {
    const value = query.get(name);
    if (value) out.set(name, value);
  }
  return out;
}

/** Path of the files that an address asks for. */
export function filesPath(sweepId: number, device: string, query: URLSearchParams): string {
  const out = filterOf(query);
  out.set('device', device);
  for (const name of ['sort', 'descending']) {
    const value = query.get(name);
    if (value) out.set(name, value);
  }
  out.set('limit', String(FILES_PAGE));
  out.set('offset', String(Math.max(0, Number(query.get('from')) || 0)));
  return `/api/sweeps/${sweepId}/files?${out.toString()}`;
}

/** Path of the same files put together; Weight leaves the search to its findings. */
export function fileGroupsPath(
  sweepId: number,
  device: string,
  query: URLSearchParams,
  by: FileGroup,
  words: 'with search' | 'without search' = 'without search',
): string {
  const out = filterOf(query);
  if (words === 'without search') out.delete('search');
  out.set('device', device);
  out.set('by', by);
  return `/api/sweeps/${sweepId}/files?${out.toString()}`;
}

/** Parameters that narrow to one group. */
export function narrowedTo(by: FileGroup, key: string): Readonly<Record<string, string>> {
  return { [by]: key };
}
