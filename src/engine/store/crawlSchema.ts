import type { Generated } from 'kysely';

/** `waiting`: known, not visited yet. `skipped`: known, will not be visited in this sweep. */
export type PageState = 'waiting' | 'done' | 'failed' | 'skipped';

/** How a page became known. */
export type PageOrigin = 'home' | 'link' | 'sitemap' | 'list' | 'redirect' | 'capture';

/** One address of a sweep with the facts of its answer. */
export interface PageTable {
  id: Generated<number>;
  sweep_id: number;
  /** Without secrets. */
  url: string;
  /** The whole address, encrypted, while it is needed and differs. */
  sealed: string | null;
  state: PageState;
  /** Why it failed or was left out. */
  why: string | null;
  origin: PageOrigin;
  /** Links followed from where the crawl began; orders the work. */
  level: number;
  /** Fewest links from the home page; null where none leads. */
  depth: number | null;
  /** The sitemap that names it. */
  in_sitemap: string | null;
  folder: string;
  status: number | null;
  type: string | null;
  transfer_bytes: number | null;
  decoded_bytes: number | null;
  encoding: string | null;
  protocol: string | null;
  answer_ms: number | null;
  total_ms: number | null;
  fetched_at: string | null;
  redirect_to: string | null;
  redirect_kind: string | null;
  /** Where a redirect to another site leads on to, Hop[] as JSON; the last one is the end. */
  outside: string | null;
  /** Every redirect on the way, Hop[] as JSON; the end is final_url. */
  hops: string | null;
  hop_count: Generated<number>;
  final_url: string | null;
  final_status: number | null;
  title: string | null;
  language: string | null;
  canonical: string | null;
  robots: string | null;
  base: string | null;
  links_out: number | null;
  links_in: number | null;
  /** Clicks by the site's latest search export; null where it has none. */
  clicks: number | null;
  /** Pages of the sweep that it links to and that answer with an error, or through redirects. */
  links_missing: number | null;
  links_redirected: number | null;
  mentions: number | null;
  elements: number | null;
  fingerprint: string | null;
  template: string | null;
  text_hash: string | null;
  body_hash: string | null;
  /** PageDetails as JSON. */
  details: string | null;
}

export interface LinkTable {
  sweep_id: number;
  from_id: number;
  /** Page of this sweep; null for another site, whose address is in `url`. */
  to_id: number | null;
  url: string | null;
  tag: string;
  attribute: string;
  line: number;
  col: number;
  rel: string;
  text: string;
}

export interface MentionTable {
  sweep_id: number;
  page_id: number;
  url: string;
  /** 1 when the address belongs to the site itself. */
  own: number;
  tag: string;
  attribute: string;
  use: string;
  kind: string | null;
  line: number;
  col: number;
  source: string;
}

export interface FingerprintTable {
  sweep_id: number;
  fingerprint: string;
  features: string;
}

export interface TemplateTable {
  sweep_id: number;
  template: string;
  name: string;
  pages: number;
}

/** What was cut off or waited out, counted. */
export interface SweepNoteTable {
  sweep_id: number;
  kind: string;
  about: string;
  count: number;
  example: string;
  source: string | null;
  what: string;
}
