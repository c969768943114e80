import fs from 'node:fs/promises';
import { readField } from '../../../../../core/field/readField';
import { DEFAULT_VISITOR, parseVisitor } from '../../../../../core/load/visitors';
import { decodeList } from '../../../../../core/site/lists/table';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { store } from '../../../../../engine/services/openedStore';
import { siteField } from '../../../../../engine/services/siteField';
import { addFieldFile, listFieldFiles } from '../../../../../engine/store/fieldFiles';
import { findSite } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { idOf, json, notFound, route } from '../../../_answer';
import { fileNameOf, takeUpload } from '../../../_upload';

/** Field data of a site beside what its sweep says: `?visitor=&sweep=`. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const asked = Number(context.url.searchParams.get('sweep'));
  const sweeps = await listSweeps(db, site.id);
  const sweep = sweeps.find((s) => s.id === asked) ?? currentSweep(sweeps);
  const visitor = parseVisitor(context.url.searchParams.get('visitor') ?? DEFAULT_VISITOR.id);
  if (!sweep)
    return json({ files: await listFieldFiles(db, site.id), device: 'phone', month: '', pages: [], fittable: 0 });
  return json(await siteField(db, site, sweep.id, visitor));
});

/** Adds a file: the body is the file, `X-File-Name` its name. */
export const POST = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  if (!site) return notFound('There is no such site.', context.url.pathname);
  const name = fileNameOf(context, 'field data');
  const file = await takeUpload(context, name, { bytes: 50e6, words: '50 MB', next: 'Split it into several files.' });
  try {
    await addFieldFile(db, site.id, name, readField(decodeList(await fs.readFile(file)), site.home, name));
    return json(await listFieldFiles(db, site.id), 201);
  } finally {
    await fs.rm(file, { force: true });
  }
});
