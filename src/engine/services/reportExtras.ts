import fs from 'node:fs/promises';
import type { Finding } from '../../core/checks/finding';
import type { PlainCause, ReportExtras, ReportFilm, SinceLast } from '../../core/handover/report/extras';
import { InputError } from '../../core/capture/errors';
import type { LanguageFile } from '../../core/handover/report/words';
import { deviceOf, type Visitor } from '../../core/load/visitors';
import type { SweepCause } from '../../core/site/news';
import { OUTCOME_WORDS } from '../../core/proof/outcomeWords';
import { deviceIn, listCaptures } from '../store/captures';
import { latestField, listFieldFiles } from '../store/fieldFiles';
import { folderOfStore } from '../store/location';
import { listOutcomes } from '../store/outcomes';
import { listPlans } from '../store/plans';
import { listProofs, pictureFile, proofPictures, type ProofRow } from '../store/proofs';
import { siteLook } from '../store/sites';
import type { Store } from '../store/store';
import { readLanguage } from './languages';
import { makePageTimes } from './pageTimes';
import { sweepNews } from './sweepNews';

/** Causes that are looked up: a report names a few of each kind. */
const MOST_CAUSES = 500;

/** Moments of a film strip. */
const MOMENTS = 6;

/** What a site's report says beside what its sweep holds: the firm, what became of the last time, a film. */
export async function reportExtras(
  store: Store,
  sweep: { readonly siteId: number; readonly sweepId: number },
  visitor: Visitor,
): Promise<ReportExtras> {
  const look = await siteLook(store, sweep.siteId);
  return {
    look,
    language: await languageOf(store, look?.language),
    since: await sinceLast(store, sweep, visitor),
    film: await filmOf(store, sweep, visitor),
    field: await fieldOf(store, sweep, visitor),
  };
}

/** Changes with all that those are made from, beside the sweep itself. */
export async function extrasState(store: Store, siteId: number): Promise<unknown> {
  const plans = await listPlans(store, siteId);
  const outcomes = await Promise.all(plans.map((p) => listOutcomes(store, p.id)));
  const proofs = await listProofs(store, siteId, 20);
  const field = await listFieldFiles(store, siteId);
  return [field, await siteLook(store, siteId), plans, outcomes.map((o) => o[0]?.id), proofs.map((p) => p.id)];
}

/** The language of a site's reports; English where its file is gone. */
async function languageOf(store: Store, language = 'en'): Promise<LanguageFile | undefined> {
  try {
    return await readLanguage(language, await folderOfStore(store));
  } catch (error) {
    if (error instanceof InputError) return undefined;
    throw error;
  }
}

/** What real visits came to, for the pages of a sweep. */
async function fieldOf(
  store: Store,
  { siteId, sweepId }: { readonly siteId: number; readonly sweepId: number },
  visitor: Visitor,
): Promise<ReportExtras['field']> {
  const device = await deviceIn(store, sweepId, deviceOf(visitor));
  const latest = await latestField(store, siteId, device);
  const rows = (await listCaptures(store, sweepId, device)).map((c) => [c.page, latest.rowFor(c.page)] as const);
  return Object.fromEntries(rows.flatMap(([page, row]) => (row ? [[page, row]] : [])));
}

async function sinceLast(
  store: Store,
  { siteId, sweepId }: { readonly siteId: number; readonly sweepId: number },
  visitor: Visitor,
): Promise<SinceLast | undefined> {
  const device = await deviceIn(store, sweepId, deviceOf(visitor));
  const { against, news } = await sweepNews(store, { id: sweepId, siteId }, device);
  if (!against || !news) return undefined;
  const [then, now] = [await heroPaints(store, against.id, visitor), await heroPaints(store, sweepId, visitor)];
  const both = [...now].filter(([page]) => then.has(page));
  const mean = (values: readonly number[]) => values.reduce((sum, v) => sum + v, 0) / Math.max(1, values.length);
  const plain = (of: number, list: readonly SweepCause[]) =>
    plainCauses(
      store,
      of,
      list.filter((c) => c.harm !== 'tidy'),
    );
  return {
    day: against.day,
    thenMs: mean(both.map(([page]) => then.get(page) ?? 0)),
    nowMs: mean(both.map(([, ms]) => ms)),
    pages: both.length,
    gone: await plain(against.id, news.gone),
    appeared: await plain(sweepId, news.appeared),
    cameBack: await plain(sweepId, news.cameBack),
    promises: await promisesOf(store, siteId),
  };
}

/** Causes of a sweep in plain words. */
async function plainCauses(store: Store, sweepId: number, causes: readonly SweepCause[]): Promise<PlainCause[]> {
  if (causes.length === 0) return [];
  const rows = await store
    .selectFrom('findings')
    .innerJoin('captures', 'captures.id', 'findings.capture_id')
    .select(['findings.cause', 'findings.json'])
    .where('captures.sweep_id', '=', sweepId)
    .where(
      'findings.cause',
      'in',
      causes.slice(0, MOST_CAUSES).map((c) => c.cause),
    )
    .execute();
  const plain = new Map(rows.map((r) => [r.cause, (JSON.parse(r.json) as Finding).plain]));
  return causes.map((c) => ({ plain: plain.get(c.cause) ?? c.title, pages: c.pages }));
}

/** Hero paint of each recorded page of a sweep, ms. */
async function heroPaints(store: Store, sweepId: number, visitor: Visitor): Promise<Map<string, number>> {
  const device = await deviceIn(store, sweepId, deviceOf(visitor));
  const pages = new Map((await listCaptures(store, sweepId, device)).map((c) => [c.id, c.page]));
  const times = await makePageTimes(store, sweepId, visitor);
  return new Map(times.map((p) => [pages.get(p.captureId) ?? '', p.nowMs]));
}

/** What the latest look at each plan says of its done fixes. */
async function promisesOf(store: Store, siteId: number): Promise<SinceLast['promises']> {
  const out: { title: string; became: string; kept: boolean }[] = [];
  for (const plan of await listPlans(store, siteId)) {
    const [last] = await listOutcomes(store, plan.id);
    for (const { title, verdict } of last?.outcome.fixes ?? [])
      out.push({ title, became: OUTCOME_WORDS[verdict], kept: verdict === 'kept' || verdict === 'more' });
  }
  return out;
}

/** The latest proof of this sweep for the visitor, as a strip of moments; undefined where nothing was proved. */
async function filmOf(
  store: Store,
  { siteId, sweepId }: { readonly siteId: number; readonly sweepId: number },
  visitor: Visitor,
): Promise<ReportFilm | undefined> {
  const proofs = (await listProofs(store, siteId)).filter((p) => p.sweepId === sweepId && p.visitor === visitor.id);
  for (const proof of proofs) {
    const film = await stripOf(store, proof);
    if (film) return film;
  }
  return undefined;
}

async function stripOf(store: Store, proof: ProofRow): Promise<ReportFilm | undefined> {
  const { film } = await proofPictures(store, proof.id);
  const last = Math.max(0, ...[...film.before, ...film.after].map((f) => f.atMs));
  if (film.before.length === 0 || film.after.length === 0) return undefined;
  const end = Math.ceil((last + 100) / 100) * 100;
  const frame = async (side: 'before' | 'after', atMs: number) => {
    const name = film[side].filter((f) => f.atMs <= atMs).at(-1)?.name;
    const file = name && (await pictureFile(store, proof.id, name));
    return file ? await fs.readFile(file).catch(() => undefined) : undefined;
  };
  const moments = [];
  for (let i = 1; i <= MOMENTS; i++) {
    const atMs = Math.round((end * i) / MOMENTS);
    moments.push({ atMs, before: await frame('before', atMs), after: await frame('after', atMs) });
  }
  return { title: proof.title || proof.page, visitor: proof.visitorName, fixes: proof.groups.length, moments };
}
