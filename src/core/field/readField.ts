import { InputError } from '../capture/errors';
import { dateOrder, numberForm, readDate, readNumber, type NumberForm } from '../site/lists/cells';
import { readTable } from '../site/lists/table';
import { FIELD_METRICS, fieldAddress, THRESHOLDS, type FieldMetric, type FieldRow, type Shares } from './fieldData';

/** What was read, and what was not. */
export interface ReadField {
  readonly rows: readonly FieldRow[];
  /** Lines that say nothing of use, with why. */
  readonly unread: { readonly count: number; readonly examples: readonly string[] };
  /** What the file was taken for. */
  readonly as: 'table' | 'JSON' | 'single visits';
}

const MOST_ROWS = 200_000;
const MOST_EXAMPLES = 5;

/** Words by which columns and fields name a metric. */
const WORDS: Readonly<Record<FieldMetric, RegExp>> = {
  ttfbMs: /\b(ttfb|time.?to.?first.?byte)/i,
  fcpMs: /\b(fcp|first.?contentful.?paint)/i,
  lcpMs: /\b(lcp|largest.?contentful.?paint)/i,
  cls: /\b(cls|cumulative.?layout.?shift)/i,
  inpMs: /\b(inp|interaction.?to.?next.?paint)/i,
};

/**
 * Reads field data, told by its content: a table (RFC 4180) or JSON of p75s by page or origin, device and month, or lines
 * of JSON of single visits (`{ "url", "name": "LCP", "value" }` or `{ "url", "lcp", "fcp" }`), of which the p75 are made
 * here.
 * @param home absolute addresses are made with it
 * @throws InputError that says what is missing
 */
export function readField(text: string, home: string, where: string): ReadField {
  const clean = text.replace(/^\uFEFF/, '').trim();
  if (clean === '') throw new InputError('The file is empty.', where, 'Choose one with field data.');
  const read = /^[[{]/.test(clean) ? readJson(clean, home, where) : readCsv(clean, home, where);
  if (read.rows.length === 0)
    throw new InputError(
      `No row of it could be read${read.unread.examples[0] ? `: ${read.unread.examples[0]}` : '.'}`,
      where,
      'It needs an address and at least one of TTFB, FCP, LCP, CLS, INP in each row.',
    );
  return read;
}

class Unread {
  count = 0;
  readonly examples: string[] = [];

  add(why: string): undefined {
    this.count++;
    if (this.examples.length < MOST_EXAMPLES) this.examples.push(why);
    return undefined;
  }
}

/** Any value by the name that its source gave it. */
type Named = Readonly<Record<string, unknown>>;

function readCsv(text: string, home: string, where: string): ReadField {
  const { rows } = readTable(text);
  const at = rows.findIndex((row) => row.some((c) => FIELD_METRICS.some((m) => WORDS[m].test(c))));
  const header = rows[at];
  if (!header)
    throw new InputError(
      'No column is named after a metric.',
      where,
      'Name columns after what they hold: url, device, month, LCP, FCP, CLS, INP, TTFB.',
    );
  const body = rows.slice(at + 1, at + 1 + MOST_ROWS);
  const forms = header.map((_, i) =>
    numberForm(
      body.slice(0, 200).map((r) => r[i] ?? ''),
      false,
    ),
  );
  const unread = new Unread();
  const order = dateOrder(body.slice(0, 200).flatMap((r) => r));
  const out = body.flatMap((row, i) => {
    const named: Record<string, unknown> = {};
    header.forEach((name, k) => {
      const cell = row[k] ?? '';
      named[name] = readNumber(cell, forms[k] as NumberForm) ?? cell;
    });
    const line = `line ${at + 2 + i}`;
    return rowOf(named, home, line, unread, (cell) => readDate(cell, order)) ?? [];
  });
  return { rows: out, unread, as: 'table' };
}

function readJson(text: string, home: string, where: string): ReadField {
  const unread = new Unread();
  const lines = linesOfJson(text);
  if (lines) return ofVisits(lines, home, unread);
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch (error) {
    throw new InputError(
      `This is no JSON: ${error instanceof Error ? error.message : String(error)}`,
      where,
      'Write a list of rows, or one visit a line.',
    );
  }
  const list = Array.isArray(value)
    ? (value as unknown[])
    : (Object.values(value as object).find((v): v is unknown[] => Array.isArray(v)) ?? [value]);
  const objects = list.slice(0, MOST_ROWS).filter((v): v is Named => typeof v === 'object' && v !== null);
  if (objects.some((o) => typeof o.name === 'string' && typeof o.value === 'number'))
    return ofVisits(objects, home, unread);
  const rows = objects.flatMap((o, i) => rowOf(o, home, `row ${i + 1}`, unread, (t) => readDate(t, 'ymd')) ?? []);
  return { rows, unread, as: 'JSON' };
}

/** Objects of newline-delimited JSON; undefined for text that is one document. */
function linesOfJson(text: string): Named[] | undefined {
  const lines = text.split(/\r?\n/).filter((l) => l.trim() !== '');
  if (lines.length < 2) return undefined;
  const out: Named[] = [];
  for (const line of lines.slice(0, MOST_ROWS)) {
    try {
      const value: unknown = JSON.parse(line);
      if (typeof value !== 'object' || value === null || Array.isArray(value)) return undefined;
      out.push(value as Named);
    } catch {
      return undefined;
    }
  }
  return out;
}

const keyLike = (named: Named, pattern: RegExp) => Object.keys(named).find((k) => pattern.test(k));
const textOf = (value: unknown) => (typeof value === 'string' ? value : typeof value === 'number' ? String(value) : '');

const ADDRESS = /^\s*(url|page|address|origin|site|path|landing.?page)\b/i;
const DEVICE = /device|form.?factor|platform/i;
const MONTH = /month|date|period|collected|until|\bto\b/i;
const VISITS = /visits|samples|count|sessions|loads|\bn\b/i;

/** One row of p75s. */
function rowOf(
  named: Named,
  home: string,
  where: string,
  unread: Unread,
  dateOf: (text: string) => string | undefined,
): FieldRow | undefined {
  const address = placeOf(named, home);
  if (!address) return unread.add(`${where}: no address`);
  const p75: Partial<Record<FieldMetric, number>> = {};
  const shares: Partial<Record<FieldMetric, Shares>> = {};
  for (const metric of FIELD_METRICS) {
    const keys = Object.keys(named).filter((k) => WORDS[metric].test(k));
    const share = sharesOf(named, keys) ?? sharesOf(named[keys[0] ?? ''], undefined);
    if (share) shares[metric] = share;
    const key = keys.find((k) => !/good|poor|need|fast|slow|share|density/i.test(k));
    const value = key === undefined ? undefined : valueOf(named[key], key, metric);
    if (value !== undefined) p75[metric] = value;
  }
  if (Object.keys(p75).length === 0) return unread.add(`${where}: no metric with a number`);
  const visitsKey = keyLike(named, VISITS);
  const visits = visitsKey === undefined ? NaN : Number(named[visitsKey]);
  const month = textOf(named[keyLike(named, MONTH) ?? '']);
  return {
    ...address,
    device: deviceOf(textOf(named[keyLike(named, DEVICE) ?? ''])),
    month: (/^\d{4}-\d{2}$/.exec(month)?.[0] ?? dateOf(month) ?? '').slice(0, 7),
    p75,
    shares,
    ...(visits > 0 && { visits: Math.round(visits) }),
  };
}

function placeOf(named: Named, home: string) {
  const key = keyLike(named, ADDRESS);
  const text = key === undefined ? '' : textOf(named[key]).trim();
  const place = text === '' ? undefined : fieldAddress(text, home);
  return place && key && /^\s*origin/i.test(key)
    ? { address: new URL(place.address).origin, of: 'origin' as const }
    : place;
}

/** A p75: the number itself, or `{ p75 }` or `{ percentiles: { p75 } }`. Seconds where the name says so. */
function valueOf(value: unknown, name: string, metric: FieldMetric): number | undefined {
  const inner = typeof value === 'object' && value !== null ? (value as Named) : undefined;
  const raw = inner ? (inner.p75 ?? (inner.percentiles as Named | undefined)?.p75) : value;
  const number = typeof raw === 'string' && raw.trim() !== '' ? Number(raw) : raw;
  if (typeof number !== 'number' || !Number.isFinite(number) || number < 0) return undefined;
  if (metric === 'cls') return number > 50 ? undefined : number;
  const ms = /(\(s\)|_s\b|\bsec)/i.test(name) ? number * 1000 : number;
  return ms > 600_000 ? undefined : ms;
}

/** Shares of a metric: from columns that name them, or from three densities of a histogram. */
function sharesOf(source: unknown, keys: readonly string[] | undefined): Shares | undefined {
  if (typeof source !== 'object' || source === null) return undefined;
  const named = source as Named;
  const find = (pattern: RegExp) => {
    const key = (keys ?? Object.keys(named)).find((k) => pattern.test(k));
    const n = key === undefined ? NaN : Number(named[key]);
    return Number.isFinite(n) ? n : undefined;
  };
  const bins = keys === undefined && Array.isArray(named.histogram) ? (named.histogram as { density?: unknown }[]) : [];
  const parts =
    bins.length === 3
      ? bins.map((b) => Number(b.density))
      : [find(/good|fast/i), find(/need|middling|average/i), find(/poor|slow/i)];
  const [good, middling, poor] = parts;
  if (good === undefined || poor === undefined || !Number.isFinite(good + poor)) return undefined;
  const whole = good + poor + (middling ?? 0) > 1.5 ? 100 : 1;
  const [g, p] = [good / whole, poor / whole];
  return { good: g, middling: Math.max(0, 1 - g - p), poor: p };
}

const deviceOf = (text: string): FieldRow['device'] =>
  /phone|mobile/i.test(text) ? 'phone' : /desk|computer/i.test(text) ? 'desktop' : 'all';

/** Groups single visits by address, device and month, and makes p75s and shares of them. */
function ofVisits(visits: readonly Named[], home: string, unread: Unread): ReadField {
  interface Group {
    readonly head: Pick<FieldRow, 'of' | 'address' | 'device' | 'month'>;
    readonly values: Map<FieldMetric, number[]>;
  }
  const groups = new Map<string, Group>();
  for (const [i, visit] of visits.entries()) {
    const address = placeOf(visit, home);
    if (!address) {
      unread.add(`line ${i + 1}: no address`);
      continue;
    }
    const found = valuesOf(visit);
    if (found.length === 0) {
      unread.add(`line ${i + 1}: no metric with a number`);
      continue;
    }
    const when = textOf(visit[keyLike(visit, /^(ts|time|timestamp|date|at)/i) ?? '']);
    const head = {
      ...address,
      device: deviceOf(textOf(visit[keyLike(visit, DEVICE) ?? ''])),
      month: monthOf(when),
    };
    const key = JSON.stringify(head);
    const group = groups.get(key) ?? { head, values: new Map<FieldMetric, number[]>() };
    groups.set(key, group);
    for (const [metric, value] of found) group.values.set(metric, [...(group.values.get(metric) ?? []), value]);
  }
  const rows = [...groups.values()].map(({ head, values }): FieldRow => {
    const p75: Partial<Record<FieldMetric, number>> = {};
    const shares: Partial<Record<FieldMetric, Shares>> = {};
    for (const [metric, list] of values) {
      const sorted = [...list].sort((a, b) => a - b);
      p75[metric] = sorted[Math.min(sorted.length - 1, Math.ceil(0.75 * sorted.length) - 1)] ?? 0;
      const [good, poor] = THRESHOLDS[metric];
      const g = sorted.filter((v) => v <= good).length / sorted.length;
      const p = sorted.filter((v) => v > poor).length / sorted.length;
      shares[metric] = { good: g, middling: Math.max(0, 1 - g - p), poor: p };
    }
    return { ...head, p75, shares, visits: Math.max(...[...values.values()].map((v) => v.length)) };
  });
  return { rows, unread, as: 'single visits' };
}

function valuesOf(visit: Named): [FieldMetric, number][] {
  if (typeof visit.name === 'string' && typeof visit.value === 'number') {
    const metric = FIELD_METRICS.find((m) => WORDS[m].test(visit.name as string));
    const value = metric && valueOf(visit.value, '', metric);
    return metric && value !== undefined ? [[metric, value]] : [];
  }
  return FIELD_METRICS.flatMap((metric): [FieldMetric, number][] => {
    const key = keyLike(visit, WORDS[metric]);
    const value = key === undefined ? undefined : valueOf(visit[key], key, metric);
    return value === undefined ? [] : [[metric, value]];
  });
}

function monthOf(text: string): string {
  if (/^\d{12,14}$/.test(text)) return new Date(Number(text)).toISOString().slice(0, 7);
  return /^\d{4}-\d{2}/.exec(text)?.[0] ?? '';
}
