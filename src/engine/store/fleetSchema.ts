import type { Generated } from 'kysely';

/** One recording that a job is to make. */
export interface RecordingTable {
  id: Generated<number>;
  job_id: number;
  url: string;
  /** As in pages. */
  sealed: string | null;
  device: 'phone' | 'desktop';
  why: string;
  state: 'waiting' | 'done' | 'failed';
  capture_id: number | null;
  error: string | null;
  /** The host of the page, while a recorder may ask it for something. */
  host: string | null;
  /** When it was put into the queue of recorders, in ms since 1970; null while it is not there. */
  sent_at: number | null;
}

/** What recorders do for a job besides recordings. */
export type RemoteTaskKind = 'probe' | 'proof';

/** A probe or a proof that a recorder is to do; what it takes and what it brought lie in files. */
export interface RemoteTaskTable {
  id: Generated<number>;
  job_id: number;
  kind: RemoteTaskKind;
  /** What it is about; one of a kind in its job. */
  title: string;
  /** The host that it asks, if any. */
  host: string | null;
  /** When it was put into the queue of recorders, in ms since 1970; null while it is not there. */
  sent_at: number | null;
  /** Why it cannot be done, once a recorder has said so. */
  fault: string | null;
}

/** What a token may do: read, change, or make recordings. */
export type TokenScope = 'read' | 'change' | 'record';

/** A token for the API. */
export interface ApiTokenTable {
  id: Generated<number>;
  name: string;
  scope: TokenScope;
  /** SHA-256 of the token: it cannot be read back. */
  hash: string;
  /** Whose it is; null for one that was made without accounts. */
  account_id: number | null;
  created_at: string;
  last_used: string | null;
}

/** A process that takes recordings from the queue. */
export interface RecorderTable {
  id: Generated<number>;
  token_id: number;
  name: string;
  /** RecorderFacts as JSON. */
  facts: string;
  /** In ms since 1970. */
  first_seen: number;
  last_seen: number;
  done: Generated<number>;
  failed: Generated<number>;
}
