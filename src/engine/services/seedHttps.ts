import fs from 'node:fs/promises';
import path from 'node:path';
import zlib from 'node:zlib';
import type { FateReport } from '../../core/site/fates';
import type { OutsideList } from '../../core/site/lists/outsideList';
import { addList, listLists, saveFates } from '../store/lists';
import { listMoveSteps, saveMoveStep, type MoveStepRow } from '../store/moveSteps';
import { addProbe, lastProbe, type SiteProbe } from '../store/probes';
import { projectRoot, type Store } from '../store/store';

/** What `demo/https.json.gz` holds; made by `npm run demo:https`. */
export interface DemoHttps {
  readonly probe: SiteProbe;
  readonly lists: readonly { readonly name: string; readonly list: OutsideList; readonly report?: FateReport }[];
}

/** A move that is half done. */
const STEPS: readonly MoveStepRow[] = [
  { step: 'inventory', state: 'done', owner: 'Ines', due: '2026-10-01', note: 'Files and database looked through.' },
  { step: 'certificate', state: 'doing', owner: 'Tom', due: '2026-12-01', note: 'Main hosts done, others to follow.' },
  { step: 'third-parties', state: 'doing', owner: 'Ines', due: '2026-12-04', note: '' },
  { step: 'replace', state: 'open', owner: 'Tom', due: '2026-12-08', note: '' },
  { step: 'entrances', state: 'open', owner: 'Tom', due: '2026-12-10', note: '' },
  { step: 'sitemap', state: 'open', owner: 'Ines', due: '2026-12-11', note: '' },
];

/** Puts in the shipped probe, lists and half-done move of the stand-in site, where the site has none. */
export async function seedHttps(store: Store, siteId: number, sweepId: number | null): Promise<void> {
  if (await lastProbe(store, siteId)) return;
  const packed = await fs.readFile(path.join(projectRoot(), 'demo/https.json.gz'));
  const demo = JSON.parse(zlib.gunzipSync(packed).toString('utf8')) as DemoHttps;
  if ((await listLists(store, siteId)).length === 0)
    for (const { name, list, report } of demo.lists) {
      const id = await addList(store, siteId, name, list);
      if (report) await saveFates(store, id, report, demo.probe.askedAt);
    }
  if ((await listMoveSteps(store, siteId)).length === 0)
    for (const { step, ...noted } of STEPS) await saveMoveStep(store, siteId, step, noted);
  await addProbe(store, siteId, sweepId, demo.probe);
}
