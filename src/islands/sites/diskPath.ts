import type { SiteDisk } from '../../engine/store/retention';

export const DISK = '/api/disk';

/** What sites take on the disk, in bytes. */
export interface DiskAnswer {
  /** The database with what is not written into it yet. */
  readonly databaseBytes: number;
  readonly sites: readonly SiteDisk[];
}
