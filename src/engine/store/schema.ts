import type { Generated } from 'kysely';

/** Tables of the database; JSON columns hold plain values of `src/core`. */
export interface Tables {
  sites: SiteTable;
  sweeps: SweepTable;
  captures: CaptureTable;
  findings: FindingTable;
  bodies: BodyTable;
}

export interface SiteTable {
  id: Generated<number>;
  name: string;
  /** Home address. */
  home: string;
  created_at: string;
}

export interface SweepTable {
  id: Generated<number>;
  site_id: number;
  /** Day of the captures in it, YYYY-MM-DD. */
  day: string;
}

export interface CaptureTable {
  id: Generated<number>;
  site_id: number;
  sweep_id: number;
  page: string;
  title: string;
  device: 'phone' | 'desktop';
  recorded_at: string;
  file_hash: string;
  file_name: string;
  requests: number;
  bytes: number;
  findings: number;
  screenshot_hash: string | null;
  /** Capture, hero, graph and fixes as gzipped JSON. */
  capture: Uint8Array;
  audit: Uint8Array;
}

export interface FindingTable {
  capture_id: number;
  id: string;
  check: string;
  concern: string;
  harm: string;
  page: string;
  target: string;
  title: string;
  json: string;
}

/** Response bodies and screenshots, once by content hash (SHA-256). */
export interface BodyTable {
  hash: string;
  size: number;
  bytes: Uint8Array;
}
