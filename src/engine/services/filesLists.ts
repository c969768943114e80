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
  type PageNames,
} from '../../core/pictures/fileQuery';
import type { SweepFile } from '../../core/pictures/files';
import { codeStamp } from '../codeStamp';
import { deviceIn } from '../store/captures';
import { keepOnce } from '../store/kept';
import type { Store } from '../store/store';
import { heldFiles, pageNames, type SweepFiles } from './sweepFiles';

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
  const fit = await fittingFiles(store, sweepId, wanted, filter);
  if (!fit) return undefined;
  const { found, fitting, total, facets } = fit;
  return {
    device: found.device,
    pages: found.pages,
    total,
    all: fittingOf(found, {}, NO_NAMES).total,
    rows: sortFiles(fitting, sort, descending, offset + limit).slice(offset),
    limit,
    offset,
    facets,
  };
}

/** All files that fit, sorted: for a file to keep. */
export async function allFiles(
  store: Store,
  sweepId: number,
  wanted: Device,
  { filter, sort, descending }: Omit<FilesQuery, 'limit' | 'offset'>,
): Promise<{ device: Device; rows: SweepFile[] } | undefined> {
  const fit = await fittingFiles(store, sweepId, wanted, filter);
  return fit && { device: fit.found.device, rows: sortFiles(fit.fitting, sort, descending) };
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
  const make = async () => {
    const fit = await fittingFiles(store, sweepId, wanted, filter, by);
    if (!fit) return undefined;
    const { device, pages } = fit.found;
    return { device, pages, total: fit.total, groups: groupFiles(fit.fitting, by, fit.names) };
  };
  if (!isOfAll(filter) || !KEPT_GROUPS.includes(by)) return make();
  const device = await deviceIn(store, sweepId, wanted);
  return keepOnce(store, sweepId, `files by ${by} ${device} ${codeStamp()}`, make);
}

/** The files of a sweep, and those of them that fit; where pages belong only if a filter or a grouping asks for it. */
async function fittingFiles(store: Store, sweepId: number, wanted: Device, filter: FileFilter, by?: FileGroup) {
  const found = await heldFiles(store, sweepId, wanted);
  if (!found) return undefined;
  const names = asksForPages(filter, by) ? await pageNames(store, sweepId, found.device) : NO_NAMES;
  return { found, names, ...fittingOf(found, filter, names) };
}

/** How long after its first rows a list is read ahead, in ms: they are drawn by then. */
const SOON_MS = 600;

/** Reads a list while nobody waits for it: whoever sees its first rows sorts and narrows it next. Never fails. */
export function holdSoon(store: Store, sweepId: number, device: Device): void {
  const hold = () => fittingFiles(store, sweepId, device, {}).catch(() => undefined);
  setTimeout(() => void hold(), SOON_MS).unref();
}

const NO_NAMES: PageNames = new Map();

/** Files that fit, their sums, and what they can be narrowed by. */
interface Fitting {
  readonly fitting: SweepFile[];
  readonly total: FilesTotal;
  readonly facets: FilesAnswer['facets'];
}

/** What the latest filters let through of the lists that are held: all of it, and what is sorted and scrolled now. */
const lately = new WeakMap<SweepFiles, Map<string, Fitting>>();
const FILTERS = 3;

/** What a filter lets through; remembered unless it rests on where pages belong, which lists do not know. */
function fittingOf(found: SweepFiles, filter: FileFilter, names: PageNames): Fitting {
  const own = lately.get(found) ?? new Map<string, Fitting>();
  lately.set(found, own);
  const key = JSON.stringify(filter);
  const fitting = own.get(key) ?? fittingNow(found, filter, names);
  if (asksForPages(filter)) return fitting;
  own.delete(key);
  own.set(key, fitting);
  const [oldest] = own.keys();
  if (own.size > FILTERS && oldest !== undefined) own.delete(oldest);
  return fitting;
}

function fittingNow({ files }: SweepFiles, filter: FileFilter, names: PageNames): Fitting {
  const fitting = filterFiles(files, filter, names);
  return { fitting, total: totalOf(fitting), facets: fileFacets(fitting) };
}
