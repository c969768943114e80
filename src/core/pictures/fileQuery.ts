import { bytesText } from '../checks/texts';
import type { SweepFile } from './files';

/** What files can be put together by. */
export const FILE_GROUPS = ['file', 'directory', 'type', 'host', 'page', 'template'] as const;
export type FileGroup = (typeof FILE_GROUPS)[number];

export const FILE_SORTS = [
  'delivered',
  'needed',
  'saved',
  'bytes',
  'pages',
  'again',
  'used',
  'place',
  'fresh',
  'url',
  'host',
  'type',
] as const;
export type FileSort = (typeof FILE_SORTS)[number];

/** How long browsers may keep a file, in classes. */
export const CACHE_CLASSES = ['not known', 'never', 'under a day', 'under a month', 'a month or more'] as const;
export type CacheClass = (typeof CACHE_CLASSES)[number];

/** What narrows a list of files; every field that is set has to fit. */
export interface FileFilter {
  readonly search?: string;
  readonly type?: string;
  readonly host?: string;
  /** Host and folder, with a space between: the key of the group. */
  readonly directory?: string;
  readonly cache?: string;
  /** `own` or `third`. */
  readonly party?: string;
  /** Files of this page; its capture. */
  readonly page?: number;
  /** Files of pages of this template. */
  readonly template?: string;
  /** One file, by its address. */
  readonly file?: string;
  /** Only those of which less is needed than delivered. */
  readonly heavy?: boolean;
}

/** Where a recorded page belongs, by its capture. */
export type PageNames = ReadonlyMap<
  number,
  { readonly page: string; readonly template?: { readonly id: string; readonly name: string } }
>;

/** Some files together. */
export interface FileSum {
  /** What the group is narrowed to by. */
  readonly key: string;
  readonly name: string;
  readonly files: number;
  readonly delivered: number;
  readonly needed: number;
}

/** What a file is, for people: images by format, the rest by what it does. */
export function fileType(file: Pick<SweepFile, 'kind' | 'type'>): string {
  if (file.kind !== 'image') return file.kind;
  if (file.type.includes('svg')) return 'image/svg';
  return (file.type.includes('+') ? file.type.split('+')[0] : file.type) || 'image';
}

const directoryKey = (file: SweepFile): string => `${file.host} ${file.folder}`;

export function cacheClass(freshS: number | undefined): CacheClass {
  if (freshS === undefined) return 'not known';
  if (freshS <= 0) return 'never';
  if (freshS < 86_400) return 'under a day';
  return freshS < 30 * 86_400 ? 'under a month' : 'a month or more';
}

/** Files that fit, with their bytes counted on the pages that fit. */
export function filterFiles(files: readonly SweepFile[], filter: FileFilter, names: PageNames): SweepFile[] {
  const words = filter.search?.toLowerCase().split(/\s+/).filter(Boolean) ?? [];
  const on = (id: number) =>
    (filter.page === undefined || id === filter.page) &&
    (filter.template === undefined || names.get(id)?.template?.id === filter.template);
  const fits = (f: SweepFile): boolean => {
    if (filter.file !== undefined && f.url !== filter.file) return false;
    if (filter.type !== undefined && fileType(f) !== filter.type) return false;
    if (filter.host !== undefined && f.host !== filter.host) return false;
    if (filter.directory !== undefined && directoryKey(f) !== filter.directory) return false;
    if (filter.cache !== undefined && cacheClass(f.freshS) !== filter.cache) return false;
    if (filter.party !== undefined && (filter.party === 'third') !== f.thirdParty) return false;
    if (words.length === 0) return true;
    const text = `${f.url} ${f.alts.join(' ')}`.toLowerCase();
    return words.every((w) => text.includes(w));
  };
  const fitting = files.filter(fits);
  const own = isByPage(filter)
    ? fitting.map((f) => {
        const uses = f.uses.filter(([id]) => on(id));
        return withUses(f, uses);
      })
    : fitting;
  return own.filter((f) => f.uses.length > 0 && !(filter.heavy && f.needed >= f.delivered));
}

/** Whether a filter counts the bytes of some pages only. */
const isByPage = (filter: FileFilter): boolean => filter.page !== undefined || filter.template !== undefined;

/** Whether a filter or a grouping asks where pages belong. */
export const asksForPages = (filter: FileFilter, by?: FileGroup): boolean =>
  filter.template !== undefined || by === 'page' || by === 'template';

function withUses(file: SweepFile, uses: SweepFile['uses']): SweepFile {
  return {
    ...file,
    uses,
    delivered: uses.reduce((n, u) => n + u[1], 0),
    needed: uses.reduce((n, u) => n + u[2], 0),
    again: uses.reduce((n, u) => n + u[3], 0),
  };
}

/** More of a list than these are found by sorting all of it. */
const MOST_PICKED = 3000;

/**
 * The first files in an order, or all of them: numbers from the largest unless told otherwise, texts from the first. Few
 * of a long list are found without sorting the rest.
 */
export function sortFiles(
  files: readonly SweepFile[],
  sort: FileSort,
  descending: boolean,
  most = Infinity,
): SweepFile[] {
  const value: Readonly<Record<FileSort, (f: SweepFile) => number | string>> = {
    delivered: (f) => f.delivered,
    needed: (f) => f.needed,
    saved: (f) => f.delivered - f.needed,
    bytes: (f) => f.bytes,
    pages: (f) => f.uses.length,
    again: (f) => f.again,
    used: (f) => f.usedShare ?? -1,
    place: (f) => f.place,
    fresh: (f) => f.freshS ?? -1,
    url: (f) => f.url,
    host: (f) => f.host,
    type: fileType,
  };
  const of = value[sort];
  const sign = descending ? -1 : 1;
  const order = (a: SweepFile, b: SweepFile): number => {
    const x = of(a);
    const y = of(b);
    if (x !== y) return x < y ? -sign : sign;
    return a.url < b.url ? -1 : a.url > b.url ? 1 : 0;
  };
  return most > MOST_PICKED || most >= files.length
    ? [...files].sort(order).slice(0, most)
    : picked(files, order, most);
}

/** The first few in an order: whatever comes behind the last of them so far is not looked at again. */
function picked(files: readonly SweepFile[], order: (a: SweepFile, b: SweepFile) => number, most: number): SweepFile[] {
  let out: SweepFile[] = [];
  let last: SweepFile | undefined;
  for (const f of files) {
    if (last && order(f, last) >= 0) continue;
    out.push(f);
    if (out.length < 2 * most) continue;
    out = out.sort(order).slice(0, most);
    last = out.at(-1);
  }
  return out.sort(order).slice(0, most);
}

/** Bytes of files put together, the heaviest first. Every delivered byte counts in exactly one group. */
export function groupFiles(files: readonly SweepFile[], by: FileGroup, names: PageNames): FileSum[] {
  const groups = new Map<
    string,
    { name: string; files: number; last?: SweepFile; delivered: number; needed: number }
  >();
  const add = (key: string, name: string, file: SweepFile, delivered: number, needed: number) => {
    const group = groups.get(key) ?? { name, files: 0, delivered: 0, needed: 0 };
    groups.set(key, group);
    // Uses of one file follow each other.
    if (group.last !== file) group.files++;
    group.last = file;
    group.delivered += delivered;
    group.needed += needed;
  };
  for (const f of files) {
    if (by === 'page' || by === 'template')
      for (const [id, delivered, needed] of f.uses) {
        const own = names.get(id);
        if (by === 'page') add(String(id), own?.page ?? `capture ${id}`, f, delivered, needed);
        else add(own?.template?.id ?? '', own?.template?.name ?? 'no template', f, delivered, needed);
      }
    else {
      const key = by === 'file' ? f.url : by === 'directory' ? directoryKey(f) : by === 'host' ? f.host : fileType(f);
      add(key, by === 'directory' ? f.host + f.folder : key, f, f.delivered, f.needed);
    }
  }
  return [...groups]
    .map(([key, g]) => ({ key, name: g.name, files: g.files, delivered: g.delivered, needed: g.needed }))
    .sort((a, b) => b.delivered - a.delivered || (a.name < b.name ? -1 : 1));
}

/** Sums of files, and how many pages use them. */
export interface FilesTotal extends Omit<FileSum, 'key' | 'name'> {
  readonly pages: number;
  /** Bytes that come again on a second visit a day later. */
  readonly again: number;
}

/** Sums of a list of files. */
export function totalOf(files: readonly SweepFile[]): FilesTotal {
  const pages = new Set<number>();
  const sum = { delivered: 0, needed: 0, again: 0 };
  for (const f of files) {
    for (const [id] of f.uses) pages.add(id);
    sum.delivered += f.delivered;
    sum.needed += f.needed;
    sum.again += f.again;
  }
  return { files: files.length, pages: pages.size, ...sum };
}

/** How many files have which value, for the lists that narrow them. */
export function fileFacets(
  files: readonly SweepFile[],
): Readonly<Record<'types' | 'hosts' | 'caches', readonly { value: string; files: number }[]>> {
  const counted = (of: (f: SweepFile) => string) => {
    const counts = new Map<string, number>();
    for (const f of files) {
      const value = of(f);
      counts.set(value, (counts.get(value) ?? 0) + 1);
    }
    return [...counts]
      .map(([value, n]) => ({ value, files: n }))
      .sort((a, b) => b.files - a.files || (a.value < b.value ? -1 : 1));
  };
  return { types: counted(fileType), hosts: counted((f) => f.host), caches: counted((f) => cacheClass(f.freshS)) };
}

/** Weight in a sentence. */
export function weightSentence({ files, pages, delivered, needed, again }: FilesTotal): string {
  if (delivered === 0) return 'Nothing was transferred.';
  const more = delivered - needed;
  return `${bytesText(delivered)} are delivered over ${pages === 1 ? 'one page' : `${pages} pages`} in ${files === 1 ? 'one file' : `${files} files`}; ${bytesText(needed)} are needed: ${Math.round((100 * more) / delivered)} % could be saved. A second visit a day later transfers ${bytesText(again)}.`;
}
