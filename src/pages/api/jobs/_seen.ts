import type { APIContext } from 'astro';
import { seesSite } from '../../../core/people/roles';
import type { JobRow } from '../../../engine/store/jobs';

/** Tells the jobs that whoever asks may see: those of their sites, and those of no site to whoever sees all. */
export function jobsSeenBy(context: APIContext): (job: JobRow) => boolean {
  const roles = context.locals.who?.roles;
  return (job) =>
    roles === undefined || (job.siteId === null ? roles.everywhere !== undefined : seesSite(roles, job.siteId));
}
