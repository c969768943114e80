import type { APIContext } from 'astro';
import { seesSite } from '../../../core/people/roles';
import type { JobRow } from '../../../engine/store/jobs';

/** Tells the sites that whoever asks may see. */
export function siteSeenBy(context: APIContext): (siteId: number) => boolean {
  const roles = context.locals.who?.roles;
  return (siteId) => roles === undefined || seesSite(roles, siteId);
}

/** Tells the jobs that whoever asks may see: those of their sites, and those of no site to whoever sees all. */
export function jobsSeenBy(context: APIContext): (job: JobRow) => boolean {
  const roles = context.locals.who?.roles;
  const sees = siteSeenBy(context);
  return (job) => (job.siteId === null ? roles === undefined || roles.everywhere !== undefined : sees(job.siteId));
}
