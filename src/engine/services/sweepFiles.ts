import { bodiesInMemory, type Capture, type Device } from '../../core/capture/capture';
import type { PageNames } from '../../core/pictures/fileQuery';
import { FilesOfSweep, type SweepFile } from '../../core/pictures/files';
import { packFiles, unpackFiles, type PackedFiles } from '../../core/pictures/packFiles';
import { readPage } from '../../core/source/page';
import { codeStamp } from '../codeStamp';
import { getBodies } from '../store/bodies';
import { auditsOf, deviceIn, listCaptures, recordedCapture } from '../store/captures';
import { findingsOfCaptures } from '../store/findings';
import { isKept, keepOnce, readKept, revisionOf } from '../store/kept';
import { placesOf } from '../store/pagePlaces';
import type { Store } from '../store/store';
import { inSweepThread } from './sweepThread';

/** Every file that the recorded pages of a sweep fetch on one device. */
export interface SweepFiles {
  readonly device: Device;
  readonly pages: number;
  readonly files: readonly SweepFile[];
}

const filesName = (device: Device) => `files ${device} ${codeStamp()}`;

/** Works the files of a sweep out, once; undefined for a sweep that is not there. */
export async function sweepFiles(store: Store, sweepId: number, wanted: Device): Promise<SweepFiles | undefined> {
  const device = await deviceIn(store, sweepId, wanted);
  const kept = await keepOnce(store, sweepId, filesName(device), async (): Promise<KeptFiles> => {
    const rows = await listCaptures(store, sweepId, device);
    const list = new FilesOfSweep();
    for await (const { row, audit } of auditsOf(store, rows)) {
      const capture = await recordedCapture(store, row.id);
      if (!capture) continue;
      const { page, loads, observations } = capture;
      list.add({
        captureId: row.id,
        capture: { page, loads, observations: observations && { ...observations, renderedHtml: undefined } },
        graph: audit.graph,
        fixes: audit.fixes,
        findings: (await findingsOfCaptures(store, [row.id])).get(row.id) ?? [],
        usedShares: new Map(audit.usedShares),
        alts: await alternativeTexts(store, capture),
      });
    }
    return { device, pages: list.pages, files: packFiles(list.files()) };
  });
  return kept && unpacked(kept);
}

/** The same as it is kept. */
type KeptFiles = Omit<SweepFiles, 'files'> & { readonly files: PackedFiles };

const unpacked = (kept: KeptFiles): SweepFiles => ({ ...kept, files: unpackFiles(kept.files) });

/** Files in the lists that are held in memory together; the latest list is held however long it is. */
const HELD = 120_000;
const held = new Map<string, { readonly revision: number; readonly value: SweepFiles }>();

/** Whether the files of a sweep have been worked out. */
export const filesAreKept = async (store: Store, sweepId: number, wanted: Device): Promise<boolean> =>
  isKept(store, sweepId, filesName(await deviceIn(store, sweepId, wanted)));

/** As `sweepFiles`, made in a thread of its own and held for the next request. */
export async function heldFiles(store: Store, sweepId: number, wanted: Device): Promise<SweepFiles | undefined> {
  const revision = await revisionOf(store, sweepId);
  if (revision === undefined) return undefined;
  const device = await deviceIn(store, sweepId, wanted);
  const key = `${sweepId} ${device}`;
  const known = held.get(key);
  if (known?.revision === revision) return known.value;
  const kept = await readKept<KeptFiles>(store, sweepId, filesName(device));
  const value = kept ? unpacked(kept) : await inSweepThread<SweepFiles>(store, sweepId, { make: 'files', device });
  if (value === undefined) return undefined;
  held.delete(key);
  held.set(key, { revision, value });
  let files = [...held.values()].reduce((n, h) => n + h.value.files.length, 0);
  for (const [oldest, { value: list }] of held) {
    if (files <= HELD || held.size === 1) break;
    held.delete(oldest);
    files -= list.files.length;
  }
  return value;
}

/** Alternative texts that the source gives its pictures, by address (HTML Standard, 4.8.4.4). */
async function alternativeTexts(store: Store, capture: Capture): Promise<Map<string, string[]>> {
  const out = new Map<string, string[]>();
  const hash = capture.loads[capture.documentIndex]?.bodyHash;
  const body = hash && (await getBodies(store, [hash])).get(hash);
  if (!body) return out;
  const page = readPage(capture, bodiesInMemory(new Map([[capture.documentIndex, body]])));
  for (const mention of page.mentions) {
    const alt = mention.element.tag === 'img' ? mention.element.attributes.get('alt') : undefined;
    if (alt === undefined || mention.use !== 'load') continue;
    const texts = out.get(mention.url) ?? [];
    if (!texts.includes(alt)) texts.push(alt.slice(0, 200));
    out.set(mention.url, texts);
  }
  return out;
}

/** Pages and templates of a sweep's captures, for grouping. */
export async function pageNames(store: Store, sweepId: number, device: Device): Promise<PageNames> {
  const rows = await listCaptures(store, sweepId, device);
  const places = await placesOf(
    store,
    sweepId,
    rows.map((r) => r.page),
  );
  return new Map(rows.map((r) => [r.id, { page: r.page, template: places.get(r.page)?.template }]));
}
