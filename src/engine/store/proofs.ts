import fs from 'node:fs/promises';
import path from 'node:path';
import type { MeasuredLoads, Proof, ProofWithPictures } from '../services/proveFixes';
import { folderOfStore } from './location';
import type { Store } from './store';

/** What a proof is about, beside what it found. */
export interface ProofSubject {
  readonly jobId: number;
  readonly siteId: number;
  readonly sweepId: number | null;
  readonly captureId: number;
  readonly page: string;
  readonly title: string;
  readonly device: 'phone' | 'desktop';
  readonly visitor: string;
  readonly visitorName: string;
  readonly groups: readonly { readonly id: string; readonly title: string }[];
}

/** A proof as it is kept. */
export interface ProofRow extends Omit<ProofSubject, 'captureId'> {
  readonly id: number;
  readonly captureId: number | null;
  readonly provedAt: string;
  readonly proof: Proof;
}

/** The pictures of a proof, by name; frames with their time since the navigation. */
export interface ProofPictures {
  readonly screens: { readonly before?: string; readonly after?: string };
  readonly film: Readonly<Record<'before' | 'after', readonly { readonly atMs: number; readonly name: string }[]>>;
  /** When its requests were made is known, too; not of proofs of earlier versions. */
  readonly loads: boolean;
}

/** Beside the pictures of a proof. */
const LOADS = 'loads.json';

const columns = [
  'id',
  'job_id as jobId',
  'site_id as siteId',
  'sweep_id as sweepId',
  'capture_id as captureId',
  'page',
  'title',
  'device',
  'visitor',
  'visitor_name as visitorName',
  'groups',
  'proved_at as provedAt',
  'proof',
] as const;

type RawProof = Omit<ProofRow, 'groups' | 'proof'> & { readonly groups: string; readonly proof: string };

const open = (row: RawProof): ProofRow => ({
  ...row,
  groups: JSON.parse(row.groups) as ProofRow['groups'],
  proof: JSON.parse(row.proof) as Proof,
});

/** Proofs of a site, the latest first. */
export async function listProofs(store: Store, siteId: number, most = 500): Promise<ProofRow[]> {
  const rows = await store
    .selectFrom('proofs')
    .select(columns)
    .where('site_id', '=', siteId)
    .orderBy('id', 'desc')
    .limit(most)
    .execute();
  return rows.map(open);
}

export async function findProof(store: Store, id: number): Promise<ProofRow | undefined> {
  const row = await store.selectFrom('proofs').select(columns).where('id', '=', id).executeTakeFirst();
  return row && open(row);
}

/** Captures that a job has proved already. */
export async function provedCaptures(store: Store, jobId: number): Promise<Set<number>> {
  const rows = await store.selectFrom('proofs').select('capture_id').where('job_id', '=', jobId).execute();
  return new Set(rows.flatMap((r) => r.capture_id ?? []));
}

/** Keeps a proof with its pictures: these first, so that a proof is never without them. */
export async function addProof(store: Store, subject: ProofSubject, made: ProofWithPictures): Promise<number> {
  const folder = await pictureFolder(store, 0);
  const part = `${folder}-${subject.jobId}-${subject.captureId}`;
  await fs.rm(part, { recursive: true, force: true });
  await fs.mkdir(part, { recursive: true, mode: 0o700 });
  for (const side of ['before', 'after'] as const) {
    const screen = made.screens[side];
    if (screen) await fs.writeFile(path.join(part, `${side}.png`), screen, { mode: 0o600 });
    for (const { atMs, picture } of made.film[side])
      await fs.writeFile(path.join(part, `${side}-${Math.round(atMs)}.jpg`), picture, { mode: 0o600 });
  }
  if (made.loads) await fs.writeFile(path.join(part, LOADS), JSON.stringify(made.loads), { mode: 0o600 });
  const row = await store
    .insertInto('proofs')
    .values({
      job_id: subject.jobId,
      site_id: subject.siteId,
      sweep_id: subject.sweepId,
      capture_id: subject.captureId,
      page: subject.page,
      title: subject.title,
      device: subject.device,
      visitor: subject.visitor,
      visitor_name: subject.visitorName,
      groups: JSON.stringify(subject.groups),
      proved_at: made.proof.provedAt,
      proof: JSON.stringify(made.proof),
    })
    .returning('id')
    .executeTakeFirstOrThrow();
  const to = await pictureFolder(store, row.id);
  await fs.rm(to, { recursive: true, force: true });
  await fs.rename(part, to);
  return row.id;
}

/** Deletes a proof and its pictures; false when there is none. */
export async function removeProof(store: Store, id: number): Promise<boolean> {
  const result = await store.deleteFrom('proofs').where('id', '=', id).executeTakeFirst();
  await fs.rm(await pictureFolder(store, id), { recursive: true, force: true });
  return result.numDeletedRows > 0n;
}

/** Deletes pictures whose proof is gone, with its site or by a crash. */
export async function sweepPictures(store: Store): Promise<void> {
  const folder = path.dirname(await pictureFolder(store, 0));
  const names = await fs.readdir(folder).catch(() => []);
  const ids = new Set((await store.selectFrom('proofs').select('id').execute()).map((r) => String(r.id)));
  for (const name of names) if (!ids.has(name)) await fs.rm(path.join(folder, name), { recursive: true, force: true });
}

/** Which pictures a proof has. */
export async function proofPictures(store: Store, id: number): Promise<ProofPictures> {
  const names: readonly string[] = await fs.readdir(await pictureFolder(store, id)).catch(() => []);
  const screen = (side: string) => names.find((n) => n === `${side}.png`);
  const film = (side: string) =>
    names
      .flatMap((name) => {
        const ms = new RegExp(`^${side}-(\\d+)\\.jpg$`).exec(name)?.[1];
        return ms === undefined ? [] : [{ atMs: Number(ms), name }];
      })
      .sort((a, b) => a.atMs - b.atMs);
  return {
    screens: { before: screen('before'), after: screen('after') },
    film: { before: film('before'), after: film('after') },
    loads: names.includes(LOADS),
  };
}

/** What a proof's typical visits loaded; undefined when that was not kept. */
export async function proofLoads(store: Store, id: number): Promise<MeasuredLoads | undefined> {
  const text = await fs.readFile(path.join(await pictureFolder(store, id), LOADS), 'utf8').catch(() => undefined);
  return text === undefined ? undefined : (JSON.parse(text) as MeasuredLoads);
}

/** Where a picture of a proof lies; undefined for a name that is none. */
export async function pictureFile(store: Store, id: number, name: string): Promise<string | undefined> {
  if (!/^(before|after)(-\d+\.jpg|\.png)$/.test(name)) return undefined;
  return path.join(await pictureFolder(store, id), name);
}

const pictureFolder = async (store: Store, id: number) => path.join(await folderOfStore(store), 'proofs', String(id));
