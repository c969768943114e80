import zlib from 'node:zlib';
import { hostOf } from '../../core/capture/url';
import type { Capture, Device } from '../../core/capture/capture';
import type { Finding, MeasuredSizes } from '../../core/checks/finding';
import { folderOf } from '../../core/site/address';
import type { Fix } from '../../core/fixes/fix';
import { completeGraph, type LoadGraph } from '../../core/load/graph';
import type { Audit } from '../../core/plan/audit';
import type { SelectQueryBuilder } from 'kysely';
import type { CaptureTable } from './schema';
import type { Store } from './store';
import { sweepOfDay } from './sweeps';

/** What is kept of an audit besides its findings. */
export interface StoredAudit {
  readonly graph: LoadGraph;
  readonly fixes: readonly Fix[];
  readonly sizes: {
    readonly compressed: [number, number][];
    readonly resized: [number, number][];
    readonly minified?: [number, number][];
    readonly reencoded?: [number, { bytes: number; similarity: number }][];
  };
  /** How much of a stylesheet or script the page uses; not in audits of earlier versions. */
  readonly usedShares?: readonly (readonly [string, number])[];
}

/** A capture as listed. */
export interface CaptureRow {
  readonly id: number;
  readonly siteId: number;
  readonly sweepId: number;
  readonly page: string;
  readonly title: string;
  readonly device: 'phone' | 'desktop';
  readonly recordedAt: string;
  readonly fileName: string;
  readonly requests: number;
  readonly bytes: number;
  readonly findings: number;
  readonly screenshotHash: string | null;
  /** Since when its files are no longer kept; null while they are. */
  readonly thinnedAt: string | null;
}

const columns = [
  'id',
  'site_id as siteId',
  'sweep_id as sweepId',
  'page',
  'title',
  'device',
  'recorded_at as recordedAt',
  'file_name as fileName',
  'requests',
  'bytes',
  'findings',
  'screenshot_hash as screenshotHash',
  'thinned_at as thinnedAt',
] as const;

/** What a new capture is stored with. */
export interface NewCapture {
  readonly siteId: number;
  /** The sweep it belongs to; without one, the sweep of its day. */
  readonly sweepId?: number;
  readonly capture: Capture;
  readonly audit: StoredAudit;
  readonly findings: readonly Finding[];
  readonly fileHash: string;
  readonly fileName: string;
  readonly screenshotHash?: string;
}

const pack = (value: unknown): Uint8Array => zlib.gzipSync(JSON.stringify(value), { level: 4 });
const unpack = (bytes: Uint8Array): unknown => JSON.parse(zlib.gunzipSync(bytes).toString('utf8'));

/** An audit as stored, also by an earlier version. */
function readAudit(bytes: Uint8Array): StoredAudit {
  const audit = unpack(bytes) as StoredAudit;
  return { ...audit, graph: completeGraph(audit.graph) };
}

/** Adds a capture with its findings to its sweep. Call it inside a transaction. */
export async function addCapture(store: Store, input: NewCapture): Promise<CaptureRow> {
  const sweepId = input.sweepId ?? (await sweepOfDay(store, input.siteId, input.capture.recordedAt.slice(0, 10)));
  const { capture } = input;
  const row = await store
    .insertInto('captures')
    .values({
      site_id: input.siteId,
      sweep_id: sweepId,
      page: capture.page,
      title: capture.title,
      device: capture.device,
      recorded_at: capture.recordedAt,
      file_hash: input.fileHash,
      file_name: input.fileName,
      requests: capture.measured.requests,
      bytes: capture.measured.bytes,
      findings: input.findings.length,
      screenshot_hash: input.screenshotHash ?? null,
      capture: pack(capture),
      audit: pack(input.audit),
    })
    .returning(columns)
    .executeTakeFirstOrThrow();
  await noteBodies(store, row.id, [
    ...capture.loads.flatMap((l) => l.bodyHash ?? []),
    ...(input.screenshotHash ? [input.screenshotHash] : []),
  ]);
  await addFindings(store, row.id, input.findings);
  return row;
}

/** Notes which files a capture uses: what none uses can be let go. */
async function noteBodies(store: Store, captureId: number, hashes: readonly string[]): Promise<void> {
  const all = [...new Set(hashes)];
  for (let i = 0; i < all.length; i += 500)
    await store
      .insertInto('capture_bodies')
      .columns(['capture_id', 'body_id'])
      .expression((e) =>
        e
          .selectFrom('bodies')
          .select((b) => [b.val(captureId).as('capture_id'), 'bodies.id as body_id'])
          .where('hash', 'in', all.slice(i, i + 500)),
      )
      .execute();
}

async function addFindings(store: Store, captureId: number, findings: readonly Finding[]): Promise<void> {
  for (let i = 0; i < findings.length; i += 500) {
    const values = findings.slice(i, i + 500).map((f) => ({
      capture_id: captureId,
      id: f.id,
      check: f.check,
      concern: f.concern,
      harm: f.harm,
      page: f.page,
      target: f.target,
      title: f.title,
      json: JSON.stringify(f),
      cause: f.cause,
      folder: folderOf(f.page),
      host: hostOf(f.evidence.load?.url ?? (f.target === '*' ? f.page : f.target)) || hostOf(f.page),
    }));
    await store.insertInto('findings').values(values).execute();
  }
}

/** Puts the outcome of a new examination in the place of the old one. Call it inside a transaction. */
export async function replaceAudit(
  store: Store,
  captureId: number,
  audit: StoredAudit,
  findings: readonly Finding[],
): Promise<void> {
  await store.deleteFrom('findings').where('capture_id', '=', captureId).execute();
  await addFindings(store, captureId, findings);
  await store
    .updateTable('captures')
    .set({ audit: pack(audit), findings: findings.length })
    .where('id', '=', captureId)
    .execute();
}

/** Where pages of a sweep lead by themselves, as its recordings have shown: by script, or by a form that a script sent. */
export async function leadsByScript(store: Store, sweepId: number): Promise<Map<string, string>> {
  const rows = await store.selectFrom('captures').select('id').where('sweep_id', '=', sweepId).orderBy('id').execute();
  const out = new Map<string, string>();
  for (const { id } of rows) {
    const capture = await recordedCapture(store, id);
    const { ledHere = [], requested = '' } = capture ?? {};
    ledHere.forEach(({ url, by }, i) => {
      if (by !== 'refresh' && !out.has(url)) out.set(url, ledHere[i + 1]?.url ?? requested);
    });
  }
  return out;
}

/** Ids of all captures of a site, the latest sweep first. */
export async function capturesOfSite(store: Store, siteId: number): Promise<number[]> {
  const rows = await store
    .selectFrom('captures')
    .select('id')
    .where('site_id', '=', siteId)
    .where('thinned_at', 'is', null)
    .orderBy('sweep_id', 'desc')
    .orderBy('id')
    .execute();
  return rows.map((r) => r.id);
}

/** Ids of the latest capture of each page and device in a sweep; give it a query from `captures as latest`. */
export function latestOf<DB extends { latest: CaptureTable }>(
  query: SelectQueryBuilder<DB, 'latest', object>,
  sweepId: number,
) {
  const q = query as unknown as SelectQueryBuilder<{ latest: CaptureTable }, 'latest', object>;
  return q
    .select((e) => e.fn.max<number>('latest.id').as('id'))
    .where('latest.sweep_id', '=', sweepId)
    .groupBy(['latest.page', 'latest.device']);
}

/** Captures of a sweep, the latest of each page and device. */
export async function listCaptures(store: Store, sweepId: number, device?: 'phone' | 'desktop'): Promise<CaptureRow[]> {
  let query = store
    .selectFrom('captures')
    .select(columns)
    .where('sweep_id', '=', sweepId)
    .where('id', 'in', (q) => latestOf(q.selectFrom('captures as latest'), sweepId));
  if (device) query = query.where('device', '=', device);
  return query.orderBy('page').execute();
}

export async function captureOfFile(store: Store, fileHash: string): Promise<CaptureRow[]> {
  return store.selectFrom('captures').select(columns).where('file_hash', '=', fileHash).execute();
}

/** A stored capture with everything that belongs to it. */
export interface FullCapture {
  readonly row: CaptureRow;
  readonly capture: Capture;
  readonly audit: StoredAudit;
  readonly findings: readonly Finding[];
}

export async function getCapture(store: Store, id: number): Promise<FullCapture | undefined> {
  const row = await store
    .selectFrom('captures')
    .select([...columns, 'capture', 'audit'])
    .where('id', '=', id)
    .executeTakeFirst();
  if (!row) return undefined;
  const { capture, audit, ...rest } = row;
  const findings = await store.selectFrom('findings').select('json').where('capture_id', '=', id).execute();
  return {
    row: rest,
    capture: unpack(capture) as Capture,
    audit: readAudit(audit),
    findings: findings.map((f) => JSON.parse(f.json) as Finding),
  };
}

/** What was worked out from captures, one after the other: hundreds of them need not be in memory together. */
export async function* auditsOf(
  store: Store,
  rows: readonly CaptureRow[],
): AsyncGenerator<{ readonly row: CaptureRow; readonly audit: StoredAudit }> {
  for (const row of rows) {
    const audit = await auditOf(store, row.id);
    if (audit) yield { row, audit };
  }
}

/** What was worked out from a capture; undefined for one that is not there. */
export async function auditOf(store: Store, id: number): Promise<StoredAudit | undefined> {
  const row = await store.selectFrom('captures').select('audit').where('id', '=', id).executeTakeFirst();
  return row && readAudit(row.audit);
}

/** What was recorded of a capture, without what was worked out from it. */
export async function recordedCapture(store: Store, id: number): Promise<Capture | undefined> {
  const row = await store.selectFrom('captures').select('capture').where('id', '=', id).executeTakeFirst();
  return row && (unpack(row.capture) as Capture);
}

/** An audit in the form in which it is kept. */
export function packAudit({ graph, fixes, sizes, usedShares }: Omit<Audit, 'page' | 'hero' | 'findings'>): StoredAudit {
  return { graph, fixes, sizes: packSizes(sizes), usedShares: [...usedShares] };
}

/** Sizes in the form in which they are kept. */
export function packSizes(sizes: MeasuredSizes): StoredAudit['sizes'] {
  return {
    compressed: [...sizes.compressed],
    resized: [...sizes.resized],
    minified: [...(sizes.minified ?? [])],
    reencoded: [...(sizes.reencoded ?? [])],
  };
}

export function unpackSizes(sizes: StoredAudit['sizes']): MeasuredSizes {
  return {
    compressed: new Map(sizes.compressed),
    resized: new Map(sizes.resized),
    minified: new Map(sizes.minified),
    reencoded: new Map(sizes.reencoded),
  };
}

/** The device to show: the wanted one when the sweep has it, else the one it has. */
export async function deviceIn(store: Store, sweepId: number, wanted: Device): Promise<Device> {
  const devices = await devicesOf(store, sweepId);
  return devices.includes(wanted) ? wanted : (devices[0] ?? wanted);
}

/** The devices that pages of a sweep were recorded as. */
export async function devicesOf(store: Store, sweepId: number): Promise<Device[]> {
  const rows = await store.selectFrom('captures').select('device').distinct().where('sweep_id', '=', sweepId).execute();
  return rows.map((r) => r.device);
}
