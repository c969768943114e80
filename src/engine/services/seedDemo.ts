import fs from 'node:fs/promises';
import path from 'node:path';
import type { SweepSettings } from '../../core/site/settings';
import { addSite, listSites, saveSiteSettings, siteSettings } from '../store/sites';
import { projectRoot, type Store } from '../store/store';
import { importHar } from './importHar';

const HOME = 'https://www.fernhollow.example/';

/** Imports the shipped captures of the stand-in site; what is there already is left alone. */
export async function seedDemo(
  store: Store,
  onProgress: (text: string) => void = () => undefined,
): Promise<{ captures: number; siteId?: number }> {
  const folder = path.join(projectRoot(), 'demo/captures');
  const files = [...(await captureFiles(folder, '')), ...(await captureFiles(folder, 'before'))];
  if (!(await listSites(store)).some((s) => s.home === HOME)) {
    const site = await addSite(store, 'Fernhollow Botanic Garden', HOME);
    const own = JSON.parse(await fs.readFile(path.join(projectRoot(), 'demo/sweep.json'), 'utf8')) as SweepSettings;
    await saveSiteSettings(store, site.id, { ...(await siteSettings(store, site)), ...own, mapHosts: portsOf(own) });
  }
  let captures = 0;
  let siteId: number | undefined;
  for (const [i, file] of files.entries()) {
    onProgress(`demo ${i + 1} of ${files.length}: ${file}`);
    const result = await importHar(store, await fs.readFile(path.join(folder, file)), path.basename(file));
    captures += result.captures.length;
    siteId = result.captures[0]?.siteId ?? siteId;
  }
  return { captures, siteId };
}

async function captureFiles(folder: string, within: string): Promise<string[]> {
  const files = await fs.readdir(path.join(folder, within));
  return files
    .filter((f) => f.endsWith('.har.gz'))
    .sort()
    .map((f) => path.join(within, f));
}

/** Where the stand-in site listens: on the usual ports where this user may, else on others (see demo/site). */
function portsOf(settings: SweepSettings): string[] {
  if (process.getuid?.() === 0) return [...settings.mapHosts];
  return settings.mapHosts.map((m) => m.replace(/:80$/, ':8080').replace(/:443$/, ':8443'));
}
