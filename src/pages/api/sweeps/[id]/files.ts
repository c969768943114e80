import { boolean, number, object, string } from 'yup';
import type { Device } from '../../../../core/capture/capture';
import { toCsv } from '../../../../core/handover/csv';
import { FILE_COLUMNS, fileRows } from '../../../../core/handover/filesTable';
import {
  CACHE_CLASSES,
  FILE_GROUPS,
  FILE_SORTS,
  type FileGroup,
  type FileSort,
} from '../../../../core/pictures/fileQuery';
import { filesSheet } from '../../../../engine/services/sheet';
import { allFiles, groupedFiles, holdSoon, listFiles } from '../../../../engine/services/filesLists';
import { download, json, notFound, query, SHEET_TYPE } from '../../_answer';
import { sweepRoute } from '../../_sweep';

const schema = object({
  device: string().oneOf(['phone', 'desktop']).default('phone'),
  search: string().max(500),
  type: string().max(100),
  host: string().max(300),
  directory: string().max(2500),
  cache: string().oneOf([...CACHE_CLASSES]),
  party: string().oneOf(['own', 'third']),
  page: number().integer().min(1),
  template: string().max(200),
  file: string().max(8000),
  heavy: boolean(),
  by: string().oneOf([...FILE_GROUPS]),
  sort: string()
    .oneOf([...FILE_SORTS])
    .default('delivered'),
  descending: boolean().default(true),
  limit: number().integer().min(1).max(1000).default(100),
  offset: number().integer().min(0).default(0),
  format: string().oneOf(['json', 'csv', 'xlsx', 'json-file']).default('json'),
});

/**
 * The files of a sweep's recorded pages: filtered, sorted and paged, with sums; `by` puts what fits together. As a file
 * with all that fits: CSV, XLSX, JSON.
 */
export const GET = sweepRoute(async (context, db, sweep) => {
  const { by, sort, descending, limit, offset, format, device: wanted, ...filter } = query(context, schema);
  const missing = () => notFound('There is no such sweep.', context.url.pathname);
  const about = { filter, sort: sort as FileSort, descending };
  if (format === 'json') {
    const found = by
      ? await groupedFiles(db, sweep.id, wanted as Device, filter, by as FileGroup)
      : await listFiles(db, sweep.id, wanted as Device, { ...about, limit, offset });
    if (!found) return missing();
    holdSoon(db, sweep.id, found.device);
    return json(found);
  }
  const found = await allFiles(db, sweep.id, wanted as Device, about);
  if (!found) return missing();
  const { device, rows } = found;
  const name = `files-${sweep.day}-${device}`;
  switch (format) {
    case 'csv':
      return download(toCsv(FILE_COLUMNS, fileRows(rows)), 'text/csv; charset=utf-8', `${name}.csv`);
    case 'xlsx':
      return download(await filesSheet(rows), SHEET_TYPE, `${name}.xlsx`);
    default:
      return download(JSON.stringify(rows, null, 1), 'application/json', `${name}.json`);
  }
});
