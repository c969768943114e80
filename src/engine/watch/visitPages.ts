import { hostOf } from '../../core/capture/url';
import { sameSite } from '../../core/capture/site';
import { redactHeaders, redactUrl } from '../../core/capture/redact';
import type { SweepSettings } from '../../core/site/settings';
import { changeNotice, type Notice } from '../../core/watch/notices';
import { alwaysChanging, changesBetween } from '../../core/watch/pageChange';
import { readSnapshot, type PageSnapshot } from '../../core/watch/pageSnapshot';
import { CrawlClient } from '../crawl/client';
import { followRedirects } from '../crawl/followRedirects';
import { HostGate } from '../crawl/hostGate';
import type { Wanted } from '../crawl/control';
import type { JobContext } from '../services/runSweep';
import { benchPages } from '../services/benchPages';
import { jobInput } from '../store/jobs';
import { folderOfStore } from '../store/location';
import { ownPorts } from '../store/serverLock';
import type { Store } from '../store/store';
import { listSweeps } from '../store/sweeps';
import { addLearned, addVisit, lastSnapshot, listWatched, type WatchedPage } from '../store/watch/watchedPages';
import { tell } from './afterRun';

/** What a job of kind `changes` is given. */
export interface ChangesInput {
  readonly siteId: number;
  readonly settings: SweepSettings;
}

/**
 * Visits the watched pages of a site, each twice at once: what differs between the two says nothing and is left aside
 * from then on. What else changed since the last visit is kept and told.
 */
export async function runChanges(store: Store, jobId: number, context: JobContext): Promise<Wanted | undefined> {
  const input = await jobInput<ChangesInput>(store, jobId);
  if (!input) throw new Error(`job ${jobId} is gone`);
  const { control } = context;
  const { settings, siteId } = input;
  const pages = await listWatched(store, siteId);
  const heroes = await recordedHeroes(store, siteId);
  const own = hostOf(settings.home);
  const client = new CrawlClient({ ...settings, ownPorts: ownPorts(await folderOfStore(store)) }, (url) =>
    sameSite(hostOf(url), own),
  );
  const gate = new HostGate(settings);
  const notices: Notice[] = [];
  let failed = 0;
  let changed = 0;
  try {
    for (const [done, page] of pages.entries()) {
      if (control.wanted) break;
      const counts = { changed };
      context.onProgress({ done, total: pages.length, failed, now: [page.url], recent: [], counts }, 'visiting pages');
      const look = () => gate.run(page.url, () => visit(client, page.url, heroes.get(page.url), control.signal));
      const [first, second] = await Promise.all([look(), look()]);
      const seenAt = new Date().toISOString();
      if (typeof first === 'string' || typeof second === 'string') {
        const error = typeof first === 'string' ? first : String(second);
        await addVisit(store, page.id, { seenAt, error });
        failed++;
        continue;
      }
      const notice = await compare(store, siteId, page, first, second, seenAt);
      if (notice) {
        notices.push(notice);
        changed++;
      }
    }
  } catch (error) {
    if (!control.wanted) throw error;
  } finally {
    gate.close();
    await client.close();
  }
  await tell(store, siteId, notices, new Date());
  const counts = { changed };
  if (!control.wanted)
    context.onProgress(
      { done: pages.length, total: pages.length, failed, now: [], recent: [], counts },
      'pages visited',
    );
  return control.wanted;
}

/**
 * The file of each page's hero in the latest sweep that recorded pages, as a phone where there is that. Of pages that it did
 * not record nothing is known: an older sweep might tell of a hero that is gone.
 */
async function recordedHeroes(store: Store, siteId: number): Promise<Map<string, string>> {
  const sweep = (await listSweeps(store, siteId)).find((s) => s.captures > 0);
  if (!sweep) return new Map();
  const { pages } = await benchPages(store, sweep.id, 'phone');
  return new Map(
    pages.flatMap(({ row, graph }) => {
      const hero = graph.fetches[graph.hero.fetch]?.url;
      return hero === undefined ? [] : [[row.page, hero] as const];
    }),
  );
}

async function compare(
  store: Store,
  siteId: number,
  page: WatchedPage,
  first: PageSnapshot,
  second: PageSnapshot,
  seenAt: string,
): Promise<Notice | undefined> {
  const learned = alwaysChanging(first, second);
  if (learned.length > 0) await addLearned(store, page, learned);
  const before = await lastSnapshot(store, page.id);
  const mutings = [...page.mutings, ...page.learned, ...learned];
  const changes = before ? changesBetween(before, first, mutings) : null;
  const id = await addVisit(store, page.id, { seenAt, snapshot: first, changes });
  return changes ? changeNotice(page.url, changes, siteId, id) : undefined;
}

/** A visit as a snapshot without secrets, or why there is none. @throws the reason of the signal */
async function visit(
  client: CrawlClient,
  url: string,
  heroUrl: string | undefined,
  signal: AbortSignal,
): Promise<PageSnapshot | string> {
  const { end, fault } = await followRedirects(client, url, 'page', signal);
  if (!end) return fault?.message ?? 'no answer';
  const headers = redactHeaders(
    Object.entries(end.answer.headers)
      .filter(([name]) => name !== 'set-cookie')
      .map(([name, value]) => ({ name, value })),
  );
  return readSnapshot({
    url: redactUrl(end.url),
    status: end.answer.status,
    html: end.answer.text ?? '',
    heroUrl,
    headers: Object.fromEntries(headers.map((h) => [h.name, h.value])),
  });
}
