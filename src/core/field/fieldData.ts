import { resolveUrl } from '../capture/url';

/** What real visits are told by: times in ms, CLS as a score. */
export const FIELD_METRICS = ['ttfbMs', 'fcpMs', 'lcpMs', 'cls', 'inpMs'] as const;
export type FieldMetric = (typeof FIELD_METRICS)[number];

/** Shares of visits that went well, so so and badly; they add up to 1. */
export interface Shares {
  readonly good: number;
  readonly middling: number;
  readonly poor: number;
}

/** Up to where a metric is good, and from where on poor (Web Vitals, thresholds at p75). */
export const THRESHOLDS: Readonly<Record<FieldMetric, readonly [good: number, poor: number]>> = {
  ttfbMs: [800, 1800],
  fcpMs: [1800, 3000],
  lcpMs: [2500, 4000],
  cls: [0.1, 0.25],
  inpMs: [200, 500],
};

/** What real visits to a page, or to a whole origin, came to in a month. */
export interface FieldRow {
  readonly of: 'page' | 'origin';
  /** Absolute address; of an origin without a path. */
  readonly address: string;
  readonly device: 'phone' | 'desktop' | 'all';
  /** YYYY-MM; empty where it was not stated. */
  readonly month: string;
  /** 75th percentiles of those metrics that are known. */
  readonly p75: Readonly<Partial<Record<FieldMetric, number>>>;
  readonly shares: Readonly<Partial<Record<FieldMetric, Shares>>>;
  /** Visits that it is of; undefined where that was not stated. */
  readonly visits?: number;
}

/** Names of metrics for people. */
export const FIELD_NAMES: Readonly<Record<FieldMetric, string>> = {
  ttfbMs: 'Server (TTFB)',
  fcpMs: 'First paint (FCP)',
  lcpMs: 'Hero paint (LCP)',
  cls: 'Layout shift (CLS)',
  inpMs: 'Interaction (INP)',
};

/** An address as field data names a page: without fragment and query. */
export function fieldAddress(text: string, home: string): { address: string; of: FieldRow['of'] } | undefined {
  const trimmed = text.trim();
  const whole = /^[a-z]+:\/\//i.test(trimmed) || trimmed.startsWith('/') ? trimmed : `https://${trimmed}`;
  const resolved = resolveUrl(whole, home);
  if (resolved === undefined || !/^https?:/.test(resolved)) return undefined;
  const url = new URL(resolved);
  // An origin is written without any path; its home page with a slash.
  if (/^[a-z]+:\/\/[^/?#]+$/i.test(trimmed) || !/[/]/.test(trimmed)) return { address: url.origin, of: 'origin' };
  return { address: `${url.origin}${url.pathname}`, of: 'page' };
}

/** Rows of the latest month for a device; a page without rows of the device itself has those of all devices. */
export function latestRows(rows: readonly FieldRow[], device: 'phone' | 'desktop'): FieldRow[] {
  const best = new Map<string, FieldRow>();
  for (const row of rows) {
    if (row.device !== device && row.device !== 'all') continue;
    const key = `${row.of} ${row.address}`;
    const known = best.get(key);
    const rank = (r: FieldRow) => `${r.month} ${r.device === device ? 1 : 0}`;
    if (!known || rank(row) > rank(known)) best.set(key, row);
  }
  return [...best.values()];
}

/** Finds the row that speaks for a page: its own, else that of its origin. */
export function rowFinder(latest: readonly FieldRow[]): (page: string) => FieldRow | undefined {
  const byAddress = new Map(latest.map((r) => [`${r.of} ${r.address}`, r]));
  return (page) => {
    const url = new URL(page);
    return byAddress.get(`page ${url.origin}${url.pathname}`) ?? byAddress.get(`origin ${url.origin}`);
  };
}

/** A p75 in words: "good", "needs work", "poor". */
export function ratingOf(metric: FieldMetric, value: number): 'good' | 'needs work' | 'poor' {
  const [good, poor] = THRESHOLDS[metric];
  return value <= good ? 'good' : value <= poor ? 'needs work' : 'poor';
}
