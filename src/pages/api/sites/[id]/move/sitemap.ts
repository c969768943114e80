import { zipSync } from 'fflate';
import { sitemapFiles } from '../../../../../core/handover/sitemapXml';
import { currentSweep } from '../../../../../core/site/currentSweep';
import { store } from '../../../../../engine/services/openedStore';
import { livingPages } from '../../../../../engine/store/knownProbes';
import { findSite } from '../../../../../engine/store/sites';
import { listSweeps } from '../../../../../engine/store/sweeps';
import { download, idOf, notFound, route } from '../../../_answer';

/** A sitemap of every page that responds over https: one file, or a zip with an index. */
export const GET = route(async (context) => {
  const db = await store();
  const site = await findSite(db, idOf(context));
  const sweep = site && currentSweep(await listSweeps(db, site.id));
  if (!sweep) return notFound('There is no sweep of this site.', context.url.pathname);
  const base = new URL('/', site.home);
  base.protocol = 'https:';
  const files = sitemapFiles(await livingPages(db, sweep.id), base.href);
  const [first] = files;
  if (files.length === 1 && first) return download(first.xml, 'application/xml; charset=utf-8', first.name);
  const zip = zipSync(Object.fromEntries(files.map((f) => [f.name, Buffer.from(f.xml)])));
  return download(zip, 'application/zip', 'sitemaps.zip');
});
