import fs from 'node:fs/promises';
import path from 'node:path';
import { addSite, listSites } from '../store/sites';
import { projectRoot, type Store } from '../store/store';
import { importHar } from './importHar';

const HOME = 'https://www.fernhollow.example/';

/** Imports the shipped captures of the stand-in site; what is there already is left alone. */
export async function seedDemo(
  store: Store,
  onProgress: (text: string) => void = () => undefined,
): Promise<{ captures: number; siteId?: number }> {
  const folder = path.join(projectRoot(), 'demo/captures');
  const files = (await fs.readdir(folder)).filter((f) => f.endsWith('.har.gz')).sort();
  if (!(await listSites(store)).some((s) => s.home === HOME)) await addSite(store, 'Fernhollow Botanic Garden', HOME);
  let captures = 0;
  let siteId: number | undefined;
  for (const [i, file] of files.entries()) {
    onProgress(`demo ${i + 1} of ${files.length}: ${file}`);
    const result = await importHar(store, await fs.readFile(path.join(folder, file)), file);
    captures += result.captures.length;
    siteId = result.captures[0]?.siteId ?? siteId;
  }
  return { captures, siteId };
}
