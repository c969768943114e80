import { bodiesInMemory, type Load } from '../../core/capture/capture';
import type { ReadCapture } from '../../core/capture/har';
import type { CrawlFacts } from '../../core/checks/crawlFacts';
import type { Limits } from '../../core/checks/finding';
import { auditPage, type Audit } from '../../core/plan/audit';
import { readPage } from '../../core/source/page';
import { measureSizes } from '../imaging/measure';
import { storeFault } from '../store/faults';
import { contentHash, putBody } from '../store/bodies';
import { addCapture, captureOfFile, packAudit, type CaptureRow } from '../store/captures';
import { crawlFactsOf } from '../store/crawlFacts';
import { knownSiteOf, siteLimits, siteOfPage } from '../store/sites';
import type { Store } from '../store/store';
import { capturesIn, capturesOfFile, hashOfFile } from './readCaptureFile';

/** What an import did. */
export interface ImportResult {
  readonly captures: readonly CaptureRow[];
  /** True when the same file had been imported before: nothing was stored again. */
  readonly alreadyThere: boolean;
  readonly notes: readonly string[];
}

/** What a page is examined by besides its capture. */
type Known = (page: string) => Promise<{ limits?: Limits; crawl?: CrawlFacts }>;

/** A capture and what was found on it. */
export interface Audited {
  readonly read: ReadCapture;
  readonly audit: Audit;
}

/**
 * Reads and examines every page of a capture, by the limits of its site and what a sweep knows of it.
 * @throws InputError naming the JSON path of what is wrong.
 */
export async function auditHar(bytes: Uint8Array, fileName: string, given?: Known): Promise<Audited[]> {
  return audited(capturesIn(bytes, fileName), given);
}

/**
 * The same for a file on the disk, which may be a web archive that does not fit into memory.
 * @throws InputError as auditHar, a fault of the disk as such
 */
export async function auditFile(file: string, fileName: string, given?: Known): Promise<Audited[]> {
  return audited(await capturesOfFile(file, fileName), given);
}

async function audited(captures: readonly ReadCapture[], given: Known = () => Promise.resolve({})): Promise<Audited[]> {
  const out: Audited[] = [];
  for (const read of captures) {
    const bodies = bodiesInMemory(read.bodies);
    const page = readPage(read.capture, bodies);
    const known = await given(read.capture.page);
    out.push({ read, audit: auditPage(page, await measureSizes(page, bodies), known) });
  }
  return out;
}

/** Where captures go, when that is not to be found from the pages themselves. */
export interface ImportTarget {
  /** The site that a page belongs to if not stated. */
  readonly siteId?: number;
  /** The sweep of the day of the recording if not stated. */
  readonly sweepId?: number;
  /** Called in the transaction that stores the captures. */
  readonly onStored?: (tx: Store, rows: readonly CaptureRow[]) => Promise<void>;
}

/**
 * Imports a HAR: reads, cuts secrets, examines, stores. All pages of the file are stored or none.
 * @throws InputError for what is wrong with the file.
 */
export function importHar(
  store: Store,
  bytes: Uint8Array,
  fileName: string,
  target?: ImportTarget,
): Promise<ImportResult> {
  return imported(store, contentHash(bytes), fileName, target, (given) => auditHar(bytes, fileName, given));
}

/**
 * Imports a file of the disk as importHar does; a web archive is read as a stream.
 * @throws InputError for what is wrong with the file.
 */
export async function importFile(
  store: Store,
  file: string,
  fileName: string,
  target?: ImportTarget,
): Promise<ImportResult> {
  return imported(store, await hashOfFile(file), fileName, target, (given) => auditFile(file, fileName, given));
}

async function imported(
  store: Store,
  fileHash: string,
  fileName: string,
  target: ImportTarget | undefined,
  examine: (given: Known) => Promise<Audited[]>,
): Promise<ImportResult> {
  const known = await captureOfFile(store, fileHash);
  if (known.length > 0) return { captures: known, alreadyThere: true, notes: [] };
  const audits = await examine(async (page) => {
    const siteId = target?.siteId ?? (await knownSiteOf(store, page))?.id;
    return {
      limits: siteId === undefined ? undefined : await siteLimits(store, siteId),
      crawl: target?.sweepId === undefined ? undefined : await crawlFactsOf(store, target.sweepId, page),
    };
  });
  try {
    const captures = await store.transaction().execute(async (tx) => {
      const rows: CaptureRow[] = [];
      for (const one of audits) rows.push(await storeAudit(tx, one, fileHash, fileName, target));
      await target?.onStored?.(tx, rows);
      return rows;
    });
    return { captures, alreadyThere: false, notes: [...new Set(audits.flatMap((a) => a.read.capture.notes))] };
  } catch (error) {
    throw storeFault(error, fileName) ?? error;
  }
}

async function storeAudit(
  tx: Store,
  one: Audited,
  fileHash: string,
  fileName: string,
  target: ImportTarget | undefined,
): Promise<CaptureRow> {
  const { read, audit } = one;
  const loads: Load[] = [];
  for (const load of read.capture.loads) {
    const body = read.bodies.get(load.index);
    loads.push(body && body.length > 0 ? { ...load, bodyHash: await putBody(tx, body) } : load);
  }
  const screenshotHash = read.screenshot && (await putBody(tx, read.screenshot));
  return addCapture(tx, {
    siteId: target?.siteId ?? (await siteOfPage(tx, read.capture.page)).id,
    sweepId: target?.sweepId,
    capture: { ...read.capture, loads },
    audit: packAudit(audit),
    findings: audit.findings,
    fileHash,
    fileName,
    screenshotHash,
  });
}
