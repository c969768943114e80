import type { Generated } from 'kysely';
import type { Role } from '../../core/people/roles';

/** Somebody who logs in. */
export interface AccountTable {
  id: Generated<number>;
  name: string;
  /** `scrypt:N:r:p:salt:hash`, in base64; null for one that only a proxy logs in. */
  password: string | null;
  /** On all sites. */
  role: Role | null;
  created_at: string;
  /** Since when it may not log in. */
  disabled_at: string | null;
  last_login: string | null;
}

/** A role on a single site. */
export interface AccountSiteTable {
  account_id: number;
  site_id: number;
  role: Exclude<Role, 'administrator'>;
}

/** A browser that is logged in. */
export interface SessionTable {
  /** SHA-256 of the cookie. */
  hash: string;
  account_id: number;
  /** In ms since 1970. */
  created_at: number;
  last_seen: number;
}

/** Who changed what. */
export interface AuditTable {
  id: Generated<number>;
  at: string;
  /** Name of the account, as it was then. */
  who: string;
  /** What was done, in words. */
  says: string;
  method: string;
  path: string;
  site_id: number | null;
  address: string;
}
