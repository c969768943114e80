import type { Device } from '../../core/capture/capture';
import {
  asksForPages,
  fileFacets,
  filterFiles,
  groupFiles,
  sortFiles,
  totalOf,
  type FileFilter,
  type FileGroup,
  type FilesTotal,
  type FileSort,
  type FileSum,
} from '../../core/pictures/fileQuery';
import type { SweepFile } from '../../core/pictures/files';
import { codeStamp } from '../codeStamp';
import { deviceIn } from '../store/captures';
import { keepOnce } from '../store/kept';
import type { Store } from '../store/store';
import { heldFiles, pageNames, wholeOf } from './sweepFiles';

/** Which files are listed, in which order. */
export interface FilesQuery {
  readonly filter: FileFilter;
  readonly sort: FileSort;
  readonly descending: boolean;
  readonly limit: number;
  readonly offset: number;
}

/** What a list of files says. */
export interface FilesAnswer {
  readonly device: Device;
  /** Recorded pages. */
  readonly pages: number;
  /** Sums of what fits, and of all. */
  readonly total: FilesTotal;
  readonly all: FilesTotal;
  readonly rows: readonly SweepFile[];
  readonly limit: number;
  readonly offset: number;
  readonly facets: ReturnType<typeof fileFacets>;
}

/** Files put together. */
export interface FileGroupsAnswer extends Pick<FilesAnswer, 'device' | 'pages' | 'total'> {
  readonly groups: readonly FileSum[];
}

/** The list that Files begins with. */
const FIRST: FilesQuery = { filter: {}, sort: 'delivered', descending: true, limit: 100, offset: 0 };

const isOfAll = (filter: FileFilter): boolean => Object.values(filter).every((v) => v === undefined || v === '');

const isFirst = ({ filter, ...q }: FilesQuery): boolean =>
  isOfAll(filter) && q.sort === FIRST.sort && q.descending && q.limit === FIRST.limit && q.offset === 0;

/** A window of the files that fit; the first of all is worked out once. Undefined for a sweep that is not there. */
export async function listFiles(
  store: Store,
  sweepId: number,
  wanted: Device,
  q: FilesQuery = FIRST,
): Promise<FilesAnswer | undefined> {
  if (!isFirst(q)) return filesThatFit(store, sweepId, wanted, q);
  const device = await deviceIn(store, sweepId, wanted);
  return keepOnce(store, sweepId, `files first ${device} ${codeStamp()}`, () =>
    filesThatFit(store, sweepId, device, q),
  );
}

async function filesThatFit(
  store: Store,
  sweepId: number,
  wanted: Device,
  { filter, sort, descending, limit, offset }: FilesQuery,
): Promise<FilesAnswer | undefined> {
  const found = await heldFiles(store, sweepId, wanted);
  if (!found) return undefined;
  const fitting = filterFiles(found.files, filter, await namesFor(store, sweepId, found.device, filter));
  return {
    device: found.device,
    pages: found.pages,
    total: totalOf(fitting),
    all: wholeOf(found),
    rows: sortFiles(fitting, sort, descending, offset + limit).slice(offset),
    limit,
    offset,
    facets: fileFacets(fitting),
  };
}

/** All files that fit, sorted: for a file to keep. */
export async function allFiles(
  store: Store,
  sweepId: number,
  wanted: Device,
  { filter, sort, descending }: Omit<FilesQuery, 'limit' | 'offset'>,
): Promise<{ device: Device; rows: SweepFile[] } | undefined> {
  const found = await heldFiles(store, sweepId, wanted);
  if (!found) return undefined;
  const fitting = filterFiles(found.files, filter, await namesFor(store, sweepId, found.device, filter));
  return { device: found.device, rows: sortFiles(fitting, sort, descending) };
}

/** Groups that rest on nothing but the files, and are few. */
const KEPT_GROUPS: readonly FileGroup[] = ['type', 'host', 'directory'];

/** The files that fit, put together; groups of all files are worked out once. */
export async function groupedFiles(
  store: Store,
  sweepId: number,
  wanted: Device,
  filter: FileFilter,
  by: FileGroup,
): Promise<FileGroupsAnswer | undefined> {
  if (!isOfAll(filter) || !KEPT_GROUPS.includes(by)) return groupsThatFit(store, sweepId, wanted, filter, by);
  const device = await deviceIn(store, sweepId, wanted);
  return keepOnce(store, sweepId, `files by ${by} ${device} ${codeStamp()}`, () =>
    groupsThatFit(store, sweepId, device, filter, by),
  );
}

async function groupsThatFit(
  store: Store,
  sweepId: number,
  wanted: Device,
  filter: FileFilter,
  by: FileGroup,
): Promise<FileGroupsAnswer | undefined> {
  const found = await heldFiles(store, sweepId, wanted);
  if (!found) return undefined;
  const names = await namesFor(store, sweepId, found.device, filter, by);
  const fitting = filterFiles(found.files, filter, names);
  return {
    device: found.device,
    pages: found.pages,
    total: totalOf(fitting),
    groups: groupFiles(fitting, by, names),
  };
}

/** Where pages belong, if a filter or a grouping asks for it. */
const namesFor = async (store: Store, sweepId: number, device: Device, filter: FileFilter, by?: FileGroup) =>
  asksForPages(filter, by) ? pageNames(store, sweepId, device) : new Map();
