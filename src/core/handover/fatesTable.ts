import type { FateRow } from '../site/fates';
import { toCsv } from './csv';

export const FATE_COLUMNS = [
  'address',
  'fate',
  'what happens',
  'redirects',
  'ends at',
  'status',
  'nearest page',
  'clicks',
  'impressions',
  'position',
  'title',
  'state',
] as const;

/** A row for each listed address. */
export const fateRows = (rows: readonly FateRow[]): (string | number | undefined)[][] =>
  rows.map((r) => [
    r.address,
    r.fate,
    r.says,
    r.hops.filter((h) => h.location !== null).length,
    r.end?.url,
    r.end?.status,
    r.nearest?.url,
    r.clicks,
    r.impressions,
    r.position === undefined ? undefined : Math.round(r.position * 10) / 10,
    r.title,
    r.state,
  ]);

/** Fates as CSV (RFC 4180). */
export const fatesCsv = (rows: readonly FateRow[]): string => toCsv(FATE_COLUMNS, fateRows(rows));
