import fs from 'node:fs/promises';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { readDays, readOutsideList, ROLES, type Role } from '../../../../../core/site/lists/outsideList';
import { tick } from '../../../../../engine/jobs/runner';
import { store } from '../../../../../engine/services/openedStore';
import { MAX_LIST_BYTES, readListFile } from '../../../../../engine/services/readListFile';
import { startFates } from '../../../../../engine/services/startJobs';
import { addList, findList, listLists } from '../../../../../engine/store/lists';
import { findSite, siteSettings } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { idOf, json, notFound, route } from '../../../_answer';
import { fileNameOf, takeUpload } from '../../../_upload';

/** The lists of a site, each with how many of its addresses have which fate. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  return site ? json(await listLists(db, site.id)) : notFound('There is no such site.', context.url.pathname);
});

/**
 * Adds a list: the body is the file or the pasted text, `X-File-Name` its name; `?address=Page` names the column of a
 * role. Its addresses are asked for as a job.
 */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const name = fileNameOf(context, 'pasted list');
  const file = await takeUpload(context, name, {
    bytes: MAX_LIST_BYTES,
    words: '200 MB',
    next: 'Split it into several files.',
  });
  try {
    const tables = await readListFile(await fs.readFile(file), name);
    const chosen: Partial<Record<Role, string>> = {};
    for (const role of ROLES) {
      const column = context.url.searchParams.get(role);
      if (column) chosen[role] = column;
    }
    const list = readOutsideList(tables, site.home, chosen);
    const id = await addList(db, site.id, name, list);
    // An export often holds the days beside the pages: they become a list of their own.
    const days = list.kind === 'days' ? [] : readDays(tables, site.home);
    if (days.length > 0)
      await addList(db, site.id, `${name}, by day`, {
        kind: 'days',
        columns: ['date', 'clicks', 'impressions', 'position'],
        roles: {},
        rows: days,
        unread: { count: 0, examples: [] },
      });
    if (list.kind !== 'days') {
      const sweep = currentSweep(await listSweeps(db, site.id));
      await startFates(db, site, { id, name }, sweep?.id ?? null, await siteSettings(db, site));
      await tick();
    }
    return json(await findList(db, site.id, id), 201);
  } finally {
    await fs.rm(file, { force: true });
  }
});
