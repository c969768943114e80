import { folderOf } from './address';
import type { ListedAddress } from './lists/outsideList';

/** Sums of a part of a search export. Position is the mean by impressions. */
export interface SearchSums {
  readonly clicks: number;
  readonly impressions: number;
  readonly position: number | null;
}

export interface ComparedPart {
  readonly name: string;
  readonly before: SearchSums;
  readonly after: SearchSums;
}

/** Two periods of search performance beside each other. */
export interface ComparedPeriods {
  readonly total: ComparedPart;
  /** Most clicks lost first. */
  readonly folders: readonly ComparedPart[];
  readonly pages: readonly ComparedPart[];
  /** Clicks and impressions of each day, where the lists have days. */
  readonly days: readonly { readonly day: string; readonly clicks: number; readonly impressions: number }[];
}

class Sum {
  clicks = 0;
  impressions = 0;
  private weighed = 0;
  private weight = 0;
  add(row: ListedAddress): void {
    this.clicks += row.clicks ?? 0;
    this.impressions += row.impressions ?? 0;
    if (row.position === undefined) return;
    const weight = row.impressions ?? 1;
    this.weighed += row.position * weight;
    this.weight += weight;
  }
  value(): SearchSums {
    return {
      clicks: this.clicks,
      impressions: this.impressions,
      position: this.weight > 0 ? this.weighed / this.weight : null,
    };
  }
}

/** The page that an address stands for, whatever scheme and host form it had then. */
export function pageName(address: string): string {
  if (!URL.canParse(address)) return address;
  const { pathname, search, hostname } = new URL(address);
  return hostname.replace(/^www\./, '') + (pathname.replace(/\/$/, '') || '/') + search;
}

/** Compares two periods: in all, by folder and by page. Lists of days give the course of both. */
export function comparePeriods(before: readonly ListedAddress[], after: readonly ListedAddress[]): ComparedPeriods {
  const total = { before: new Sum(), after: new Sum() };
  const folders = new Map<string, typeof total>();
  const pages = new Map<string, typeof total>();
  const days = new Map<string, { clicks: number; impressions: number }>();
  const at = (map: Map<string, typeof total>, name: string) => {
    const found = map.get(name) ?? { before: new Sum(), after: new Sum() };
    map.set(name, found);
    return found;
  };
  for (const [side, rows] of [
    ['before', before],
    ['after', after],
  ] as const)
    for (const row of rows) {
      total[side].add(row);
      if (row.address !== '') {
        at(folders, folderOf(row.address))[side].add(row);
        at(pages, pageName(row.address))[side].add(row);
      }
      if (row.date === undefined) continue;
      const day = days.get(row.date) ?? { clicks: 0, impressions: 0 };
      day.clicks += row.clicks ?? 0;
      day.impressions += row.impressions ?? 0;
      days.set(row.date, day);
    }
  const parts = (map: Map<string, typeof total>): ComparedPart[] =>
    [...map]
      .map(([name, sums]) => ({ name, before: sums.before.value(), after: sums.after.value() }))
      .sort(
        (a, b) => a.after.clicks - a.before.clicks - (b.after.clicks - b.before.clicks) || (a.name < b.name ? -1 : 1),
      );
  return {
    total: { name: 'all pages', before: total.before.value(), after: total.after.value() },
    folders: parts(folders),
    pages: parts(pages),
    days: [...days].map(([day, sums]) => ({ day, ...sums })).sort((a, b) => (a.day < b.day ? -1 : 1)),
  };
}
