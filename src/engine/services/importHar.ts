import zlib from 'node:zlib';
import { bodiesInMemory, type Load } from '../../core/capture/capture';
import { InputError } from '../../core/capture/errors';
import type { ReadCapture } from '../../core/capture/har';
import { readCaptures } from '../../core/capture/readers';
import type { CrawlFacts } from '../../core/checks/crawlFacts';
import type { Limits } from '../../core/checks/finding';
import { auditPage, type Audit } from '../../core/plan/audit';
import { readPage } from '../../core/source/page';
import { measureSizes } from '../imaging/measure';
import { storeFault } from '../store/faults';
import { contentHash, putBody } from '../store/bodies';
import { addCapture, captureOfFile, packSizes, type CaptureRow } from '../store/captures';
import { crawlFactsOf } from '../store/crawlFacts';
import { knownSiteOf, siteLimits, siteOfPage } from '../store/sites';
import type { Store } from '../store/store';
import { CONTENT_DECODERS } from './contentDecoders';

/** Largest file that is read, after unpacking. */
export const MAX_FILE_BYTES = 512 * 1024 * 1024;

/** What an import did. */
export interface ImportResult {
  readonly captures: readonly CaptureRow[];
  /** True when the same file had been imported before: nothing was stored again. */
  readonly alreadyThere: boolean;
  readonly notes: readonly string[];
}

/**
 * Unpacks gzip if need be.
 * @throws InputError for what is too large or broken.
 */
export function unpackFile(bytes: Uint8Array, fileName: string): Uint8Array {
  if (!(bytes[0] === 0x1f && bytes[1] === 0x8b)) return bytes;
  try {
    return zlib.gunzipSync(bytes, { maxOutputLength: MAX_FILE_BYTES });
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    throw code === 'ERR_BUFFER_TOO_LARGE'
      ? new InputError('The file unpacks to more than 512 MB.', fileName, 'Export fewer pages at a time.')
      : new InputError(
          'The file looks like gzip but cannot be unpacked.',
          fileName,
          'It may have been cut short: copy it again.',
        );
  }
}

/**
 * Reads and examines every page of a HAR, by the limits of its site and what a sweep knows of it.
 * @throws InputError naming the JSON path of what is wrong.
 */
export async function auditHar(
  bytes: Uint8Array,
  fileName: string,
  given: (page: string) => Promise<{ limits?: Limits; crawl?: CrawlFacts }> = () => Promise.resolve({}),
): Promise<{ read: ReadCapture; audit: Audit }[]> {
  if (bytes.length > MAX_FILE_BYTES)
    throw new InputError('The file is larger than 512 MB.', fileName, 'Export fewer pages at a time.');
  const out: { read: ReadCapture; audit: Audit }[] = [];
  for (const read of readCaptures(unpackFile(bytes, fileName), fileName, CONTENT_DECODERS)) {
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
export async function importHar(
  store: Store,
  bytes: Uint8Array,
  fileName: string,
  target?: ImportTarget,
): Promise<ImportResult> {
  const fileHash = contentHash(bytes);
  const known = await captureOfFile(store, fileHash);
  if (known.length > 0) return { captures: known, alreadyThere: true, notes: [] };
  const audits = await auditHar(bytes, fileName, async (page) => {
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
  one: { read: ReadCapture; audit: Audit },
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
    audit: { graph: audit.graph, fixes: audit.fixes, sizes: packSizes(audit.sizes) },
    findings: audit.findings,
    fileHash,
    fileName,
    screenshotHash,
  });
}
