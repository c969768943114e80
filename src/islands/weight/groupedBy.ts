import { FILE_GROUPS, type FileGroup } from '../../core/pictures/fileQuery';

/** How the address puts the files of Weight together. */
export function groupedBy(query: URLSearchParams): FileGroup {
  const asked = query.get('by');
  return FILE_GROUPS.find((g) => g === asked) ?? 'type';
}
