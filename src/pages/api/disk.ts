import fs from 'node:fs/promises';
import path from 'node:path';
import { seesSite } from '../../core/people/roles';
import { store } from '../../engine/services/openedStore';
import { folderOfStore } from '../../engine/store/location';
import { diskBySite } from '../../engine/store/retention';
import { listSites } from '../../engine/store/sites';
import { DATABASE } from '../../engine/store/store';
import type { DiskAnswer } from '../../islands/sites/diskPath';
import { json, route } from './_answer';

/** Disk use of the sites that somebody sees. */
export const GET = route(async (context) => {
  const db = await store();
  const file = path.join(await folderOfStore(db), DATABASE);
  const sizeOf = (name: string) =>
    fs.stat(name).then(
      (s) => s.size,
      () => 0,
    );
  const roles = context.locals.who?.roles;
  const sites = (await listSites(db)).filter((s) => roles === undefined || seesSite(roles, s.id));
  const answer: DiskAnswer = {
    databaseBytes: (await sizeOf(file)) + (await sizeOf(`${file}-wal`)),
    sites: await diskBySite(
      db,
      sites.map((s) => s.id),
    ),
  };
  return json(answer);
});
