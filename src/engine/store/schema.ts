import type { Generated } from 'kysely';
import type { JobKind } from '../jobs/kinds';
import type {
  FingerprintTable,
  LinkTable,
  MentionTable,
  PageTable,
  SweepNoteTable,
  TemplateTable,
} from './crawlSchema';
import type { AccountSiteTable, AccountTable, AuditTable, SessionTable } from './peopleSchema';
import type { ApiTokenTable, RecorderTable, RecordingTable, RemoteTaskTable } from './fleetSchema';
import type {
  AppSettingTable,
  DeliveryTable,
  LimitResultTable,
  NoticeTable,
  PageVisitTable,
  ScheduleTable,
  ShareTable,
  WatchedPageTable,
  WatchLimitTable,
} from './watchSchema';

/** Tables of the database; JSON columns hold plain values of `src/core`. */
export interface Tables {
  sites: SiteTable;
  sweeps: SweepTable;
  captures: CaptureTable;
  findings: FindingTable;
  bodies: BodyTable;
  capture_bodies: CaptureBodyTable;
  pages: PageTable;
  links: LinkTable;
  mentions: MentionTable;
  fingerprints: FingerprintTable;
  templates: TemplateTable;
  sweep_notes: SweepNoteTable;
  jobs: JobTable;
  recordings: RecordingTable;
  remote_tasks: RemoteTaskTable;
  api_tokens: ApiTokenTable;
  recorders: RecorderTable;
  accounts: AccountTable;
  account_sites: AccountSiteTable;
  sessions: SessionTable;
  audit_log: AuditTable;
  mutes: MuteTable;
  plans: PlanTable;
  visitors: VisitorTable;
  kept: KeptTable;
  probes: ProbeTable;
  lists: ListTable;
  list_rows: ListRowTable;
  list_fates: ListFateTable;
  move_steps: MoveStepTable;
  proofs: ProofTable;
  outcomes: OutcomeTable;
  schedules: ScheduleTable;
  watch_limits: WatchLimitTable;
  limit_results: LimitResultTable;
  watched_pages: WatchedPageTable;
  page_visits: PageVisitTable;
  notices: NoticeTable;
  deliveries: DeliveryTable;
  app_settings: AppSettingTable;
  shares: ShareTable;
  field_files: FieldFileTable;
}

export interface SiteTable {
  id: Generated<number>;
  name: string;
  /** Home address. */
  home: string;
  /** What several sites are put together under; empty for none. */
  group_name: Generated<string>;
  created_at: string;
  /** SweepSettings as JSON; null until the first sweep. */
  settings: string | null;
  /** Limits of checks that differ from the defaults, as JSON. */
  limits: Generated<string | null>;
  /** NotifySettings as JSON, encrypted. */
  notify: Generated<string | null>;
  /** ReportLook as JSON. */
  report_look: Generated<string | null>;
}

export interface SweepTable {
  id: Generated<number>;
  site_id: number;
  /** Day of the captures in it, YYYY-MM-DD. */
  day: string;
  /** Null for a sweep made of imported files only. */
  started_at: string | null;
  ended_at: string | null;
  /** SweepSettings as JSON, without secrets. */
  settings: string | null;
  /** Counted by triggers whenever a capture, its audit or a mute changes. */
  revision: Generated<number>;
}

/** What was worked out for a sweep once, with the revision of the sweep that it is of. */
export interface KeptTable {
  sweep_id: number;
  name: string;
  revision: number;
  /** Gzipped JSON. */
  value: Uint8Array;
}

/** What one probe of a site's entrances brought. */
export interface ProbeTable {
  id: Generated<number>;
  site_id: number;
  /** The sweep it was part of. */
  sweep_id: number | null;
  asked_at: string;
  /** When its first certificate ends, in ms since 1970. */
  first_end: number | null;
  /** SiteProbe as gzipped JSON. */
  report: Uint8Array;
}

/** A list of addresses from elsewhere. */
export interface ListTable {
  id: Generated<number>;
  site_id: number;
  name: string;
  kind: string;
  /** Names of its columns, and the column of each role, as JSON. */
  columns: string;
  roles: string;
  /** Count and examples of rows that could not be read, as JSON. */
  unread: string;
  /** First and last day in it. */
  from_day: string | null;
  to_day: string | null;
  added_at: string;
  /** When its addresses were asked for. */
  asked_at: string | null;
}

export interface ListRowTable {
  list_id: number;
  /** Empty in a table of days. */
  address: string;
  clicks: number | null;
  impressions: number | null;
  position: number | null;
  date: string | null;
  title: string | null;
  state: string | null;
  source: string | null;
}

export interface ListFateTable {
  list_id: number;
  address: string;
  fate: string;
  /** Place of the fate in the order of what needs work. */
  place: number;
  says: string;
  /** ProbeHop[] as JSON. */
  hops: string;
  end_url: string | null;
  end_status: number | null;
  nearest: string | null;
  nearest_why: string | null;
  clicks: number | null;
  impressions: number | null;
  position: number | null;
  title: string | null;
  state: string | null;
  rows: number;
}

/** What became of the done fixes of a plan when they were looked at again. */
export interface OutcomeTable {
  id: Generated<number>;
  site_id: number;
  plan_id: number;
  /** Sweep whose recordings the fixes were promised on. */
  sweep_id: number | null;
  by: 'check' | 'sweep';
  looked_at: string;
  /** Outcome as JSON. */
  outcome: string;
}

/** A forecast that was compared with a real browser; its pictures lie in the data folder. */
export interface ProofTable {
  id: Generated<number>;
  job_id: number;
  site_id: number;
  sweep_id: number | null;
  capture_id: number | null;
  page: string;
  title: string;
  device: 'phone' | 'desktop';
  /** Spec, and what it was called. */
  visitor: string;
  visitor_name: string;
  /** {id, title} of each group of fixes, as JSON. */
  groups: string;
  proved_at: string;
  /** Proof as JSON. */
  proof: string;
}

export interface MoveStepTable {
  site_id: number;
  step: string;
  state: 'open' | 'doing' | 'done' | 'skipped';
  owner: string;
  due: string | null;
  note: string;
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
  /** Since when its files are no longer kept; null while they are. */
  thinned_at: Generated<string | null>;
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
  cause: string;
  folder: string;
  host: string;
}

export interface MuteTable {
  id: Generated<number>;
  site_id: number;
  scope: 'check' | 'cause' | 'finding';
  value: string;
  check: string;
  title: string;
  reason: string;
  created_at: string;
}

export interface PlanTable {
  id: Generated<number>;
  site_id: number;
  name: string;
  visitor: string;
  scope: string;
  /** PlanFix[] as JSON. */
  fixes: string;
  created_at: string;
  updated_at: string;
}

/** Visitors that users have made up; the built-in ones are in `src/core/load/visitors.ts`. */
export interface VisitorTable {
  id: Generated<number>;
  name: string;
  spec: string;
}

/** Response bodies and screenshots, once by content hash (SHA-256). */
/** Files that a capture uses: `body_id` is the number of the file in `bodies`. */
export interface CaptureBodyTable {
  capture_id: number;
  body_id: number;
}

export interface BodyTable {
  id: Generated<number>;
  hash: string;
  size: number;
  bytes: Uint8Array;
}

export type JobState = 'queued' | 'running' | 'paused' | 'done' | 'failed' | 'cancelled';

export interface JobTable {
  id: Generated<number>;
  kind: JobKind;
  site_id: number | null;
  sweep_id: number | null;
  title: string;
  state: JobState;
  /** What a person asked of a running job. */
  wanted: 'pause' | 'cancel' | null;
  phase: string | null;
  input: string;
  progress: string | null;
  error: string | null;
  /** What it brought, as JSON: an import its ImportResult. */
  result: string | null;
  /** The process that runs it, `pid:token`. */
  owner: string | null;
  beat_at: number | null;
  created_at: string;
  started_at: string | null;
  ended_at: string | null;
}

/** A file of what real visits came to. */
export interface FieldFileTable {
  id: Generated<number>;
  site_id: number;
  name: string;
  added_at: string;
  read_as: string;
  /** Count and examples of rows that could not be read, as JSON. */
  unread: string;
  count: number;
  /** FieldRow[] as gzipped JSON. */
  rows: Uint8Array;
}
