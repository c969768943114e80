import type { Generated } from 'kysely';
import type { NoticeKind } from '../../core/watch/notices';

/** Tables of the watch and of what leaves the tool; the others stand in schema.ts. */
/** When something of a site is done by itself. */
export interface ScheduleTable {
  id: Generated<number>;
  site_id: number;
  what: string;
  cron: string;
  zone: string;
  /** QuietHours as JSON. */
  quiet: string | null;
  on: number;
  created_at: string;
  /** When it last started, or tried to. */
  last_start: string | null;
  last_job: number | null;
  /** Why it could not start, as JobError in JSON. */
  last_error: string | null;
}

export interface WatchLimitTable {
  id: Generated<number>;
  site_id: number;
  /** WatchLimit as JSON. */
  content: string;
  created_at: string;
}

/** What a limit came to in a sweep. */
export interface LimitResultTable {
  limit_id: number;
  sweep_id: number;
  judged_at: string;
  value: number;
  low: number | null;
  high: number | null;
  over: number;
  broken: number;
  /** The sweep since which it has been broken without a break. */
  broken_since: number | null;
}

/** A page that the change watch visits. */
export interface WatchedPageTable {
  id: Generated<number>;
  site_id: number;
  url: string;
  /** Muting[] as JSON: set by hand. */
  mutings: string;
  /** Muting[] as JSON: what differed between two visits at once. */
  learned: string;
  created_at: string;
}

export interface PageVisitTable {
  id: Generated<number>;
  watched_id: number;
  seen_at: string;
  /** PageSnapshot as gzipped JSON; null when there was no answer. */
  snapshot: Uint8Array | null;
  /** PageChange[] against the visit before, as JSON; null for the first one. */
  changes: string | null;
  error: string | null;
}

export interface NoticeTable {
  id: Generated<number>;
  site_id: number;
  at: string;
  kind: NoticeKind;
  key: string;
  title: string;
  /** string[] as JSON. */
  lines: string;
  path: string;
  read_at: string | null;
}

/** A message on its way. */
export interface DeliveryTable {
  id: Generated<number>;
  site_id: number;
  channel: 'mail' | 'webhook';
  /** What is sent, as JSON, encrypted. */
  content: string;
  state: 'waiting' | 'sending' | 'sent' | 'failed';
  tries: number;
  /** ms since 1970 */
  next_at: number;
  error: string | null;
  created_at: string;
  ended_at: string | null;
}

export interface AppSettingTable {
  name: string;
  /** JSON, encrypted. */
  value: string;
}

/** A link by which a report can be read without a password. */
export interface ShareTable {
  id: Generated<number>;
  site_id: number;
  /** SHA-256 of its token. */
  token_hash: string;
  reader: string;
  visitor: string;
  sweep_id: number | null;
  created_at: string;
  ends_at: string;
  revoked_at: string | null;
  opened: Generated<number>;
  last_opened: string | null;
}
