import fs from 'node:fs/promises';
import path from 'node:path';
import { listSites, renameSite } from '../store/sites';
import { projectRoot, type Store } from '../store/store';
import { importHar } from './importHar';

/** Imports the shipped captures of the stand-in site; what is there already is left alone. */
export async function seedDemo(store: Store, onProgress: (text: string) => void = () => undefined): Promise<{ captures: number; siteId?: number }> {
  const folder = path.join(projectRoot(), 'demo/captures');
  const files = (await fs.readdir(folder)).filter((f) => f.endsWith('.har.gz')).sort();
  let captures = 0;
  let siteId: number | undefined;
  for (const [i, file] of files.entries()) {
    onProgress(`demo ${i + 1} of ${files.length}: ${file}`);
    const result = await importHar(store, await fs.readFile(path.join(folder, file)), file);
    captures += result.captures.length;
    siteId = result.captures[0]?.siteId ?? siteId;
  }
  const site = (await listSites(store)).find((s) => s.id === siteId);
  if (site && /fernhollow\.example$/.test(site.name)) await renameSite(store, site.id, 'Fernhollow Botanic Garden');
  return { captures, siteId };
}
