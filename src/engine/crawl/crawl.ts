import { folderOf } from '../../core/site/address';
import type { Hop } from '../../core/site/hop';
import { ownOrigins } from '../../core/site/ownOrigin';
import { scopeOf, siteTest } from '../../core/site/scope';
import type { SweepSettings } from '../../core/site/settings';
import { TRAP_MEANS, TrapWatch } from '../../core/site/traps';
import { countPages, knownPages, skipWaiting, type NewPage, type Visit, type WaitingPage } from '../store/crawlPages';
import { folderOfStore } from '../store/location';
import { saveVisits } from '../store/saveVisits';
import { ownPorts } from '../store/serverLock';
import type { PageOrigin } from '../store/crawlSchema';
import { sealerOf, type Sealer } from '../store/sealed';
import type { Store } from '../store/store';
import { AddressBook } from './addressBook';
import { CrawlClient, FetchError, type Fetched } from './client';
import { ProtocolProbe } from './connector';
import type { Wanted } from './control';
import type { CrawlOptions } from './crawlOptions';
import { CutAddresses } from './cutAddresses';
import { followRedirects } from './followRedirects';
import { HostGate, MAX_WAIT_MS } from './hostGate';
import { Levels } from './levels';
import { NoteBook } from './noteBook';
import { readSitemaps } from './readSitemaps';
import { RobotsOfHosts } from './robotsOfHosts';
import { Tally } from './tally';
import { failedVisit, retryAfterS, visitOf } from './visit';
import { VisitBatches, type VisitBatch } from './visitBatches';

const ATTEMPTS = 3;

/**
 * Visits the pages of a sweep, level by level, from what is stored: begun anew or gone on with. Returns what
 * made it stop, undefined when everything was visited.
 * @throws InputError for settings that cannot be followed
 */
export async function crawl(
  store: Store,
  sweepId: number,
  settings: SweepSettings,
  options: CrawlOptions,
): Promise<Wanted | undefined> {
  const found = { sealer: await sealerOf(store), ownPorts: ownPorts(await folderOfStore(store)) };
  const crawler = new Crawler(store, sweepId, settings, options, found);
  try {
    return await crawler.run();
  } finally {
    await crawler.close();
  }
}

class Crawler {
  private readonly addresses: AddressBook;
  private readonly cut: CutAddresses;
  private readonly inScope: ReturnType<typeof scopeOf>;
  private readonly own: (url: string) => boolean;
  private readonly traps = new TrapWatch(new Date().getUTCFullYear());
  private readonly client: CrawlClient;
  private readonly gate: HostGate;
  private readonly robots: RobotsOfHosts;
  private readonly protocols: ProtocolProbe;
  /** Ids of known addresses; 0 until stored. */
  private readonly known = new Map<string, number>();
  private readonly levels = new Levels();
  private readonly attempts = new Map<number, number>();
  private readonly busy = new Map<number, string>();
  private readonly batches = new VisitBatches(
    (batch) => this.save(batch),
    () => this.notes.size > 0,
  );
  private readonly notes: NoteBook;
  private wake: () => void = () => undefined;
  private inFlight = 0;
  private level = 0;
  private dispatched = 0;
  private readonly tally = new Tally();

  constructor(
    private readonly store: Store,
    private readonly sweepId: number,
    private readonly settings: SweepSettings,
    private readonly options: CrawlOptions,
    private readonly machine: { readonly sealer: Sealer; readonly ownPorts: readonly number[] },
  ) {
    this.cut = new CutAddresses(settings);
    this.notes = new NoteBook(this.cut);
    this.addresses = new AddressBook(settings.ignoreParameters, (reference) =>
      this.notes.add('trap', 'session', reference, TRAP_MEANS.session),
    );
    this.inScope = scopeOf(settings);
    this.own = siteTest(settings.home, true);
    this.client = new CrawlClient(
      { ...settings, ownPorts: machine.ownPorts },
      ownOrigins([settings.home]),
      options.maxAnswerMs,
    );
    this.protocols = new ProtocolProbe({ ...settings, ownPorts: machine.ownPorts });
    this.robots = new RobotsOfHosts(this.client, options.control.signal, (url, what) =>
      this.notes.add('robots', url, url, what),
    );
    this.gate = new HostGate(settings, (host) => (settings.obeyRobots ? this.robots.delayOf(host) : undefined));
  }

  async run(): Promise<Wanted | undefined> {
    const { control } = this.options;
    try {
      await this.begin();
      for (;;) {
        if (this.batches.fault) throw this.batches.fault;
        if (control.wanted) break;
        const page = this.next();
        if (page) {
          if (!this.gate.hasRoom(page.url)) await Promise.race([this.gate.room(page.url), control.stopped]);
          if (!control.wanted) this.dispatch(page);
        } else if (this.inFlight > 0) await this.change();
        else if (this.batches.waiting > 0) await this.batches.flush();
        else break;
      }
    } catch (error) {
      if (!control.wanted) throw error;
    }
    this.gate.close();
    const cut = this.cut.secrets.summary();
    if (cut) this.notes.add('secret', 'cut', this.settings.home, cut);
    await this.batches.flush();
    if (this.batches.fault) throw this.batches.fault;
    if (control.wanted !== 'pause') await this.explainRest(control.wanted);
    return control.wanted;
  }

  async close(): Promise<void> {
    this.batches.close();
    this.gate.close();
    await this.client.close().catch(() => undefined);
  }

  /** Reads what is known, or finds the first pages. */
  private async begin(): Promise<void> {
    const rows = await knownPages(this.store, this.sweepId);
    for (const row of rows) {
      this.known.set(row.url, row.id);
      if (row.sealed) this.cut.remember(row.url, this.machine.sealer.open(row.sealed));
      this.traps.judge(row.url);
      if (row.state === 'waiting') this.levels.add(row);
    }
    if (rows.length > 0) this.tally.begin(await countPages(this.store, this.sweepId));
    this.dispatched = this.tally.visited;
    if (rows.length === 0) await this.seed();
    else this.report('fetching pages');
  }

  private async seed(): Promise<void> {
    const { settings } = this;
    const pages: NewPage[] = [];
    const add = (url: string, origin: PageOrigin, inSitemap?: string) => {
      const address = this.addressOf(url, settings.home);
      const scope = address && this.inScope(address);
      if (!address || (scope && origin !== 'home')) {
        if (origin === 'list' && address)
          this.notes.add('list', 'outside', address, 'Addresses of the list lie outside of the scope.');
        if (origin === 'sitemap' && scope === 'other-site')
          this.notes.add('sitemap', 'outside', url, 'A sitemap names addresses of other sites.', inSitemap);
        return;
      }
      if (this.known.has(address)) return;
      this.known.set(address, 0);
      pages.push({ ...this.newPage(address, origin, 0), inSitemap });
    };
    if (settings.followLinks || (!settings.sitemaps && settings.list.length === 0)) add(settings.home, 'home');
    for (const url of settings.list) add(url, 'list');
    if (settings.sitemaps) {
      this.report('reading robots.txt and sitemaps');
      const homePage = pages[0]?.origin === 'home' ? pages.shift() : undefined;
      const robots = await this.robots.of(settings.home);
      const origin = new URL(settings.home).origin;
      const listed = await readSitemaps(this.client, robots.sitemaps, [`${origin}/sitemap.xml`], {
        signal: this.options.control.signal,
        maxPages: settings.maxPages * 10,
        onFault: (url, what) => this.notes.add('sitemap', url, url, what),
        onRead: (url) => this.report(`reading ${this.cut.shown(url)}`),
      });
      const sitemaps = new Map<string, string>();
      for (const page of listed) {
        const address = this.addressOf(page.url, settings.home);
        if (address && !sitemaps.has(address)) sitemaps.set(address, page.sitemap);
        add(page.url, 'sitemap', page.sitemap);
      }
      // The home page comes first; it and the pages of a list may be in a sitemap as well.
      if (homePage) pages.unshift(homePage);
      pages.forEach((p, i) => {
        const sitemap = sitemaps.get(p.url);
        if (sitemap && !p.inSitemap) pages[i] = { ...p, inSitemap: sitemap };
      });
    }
    const notes = this.notes.takeAll();
    const ids = await saveVisits(this.store, this.sweepId, { found: pages, visits: [], notes }, () => undefined);
    for (const p of pages) this.take(p, ids);
  }

  private take(page: NewPage, ids: ReadonlyMap<string, number>): void {
    const id = ids.get(page.url);
    if (id === undefined) return;
    this.known.set(page.url, id);
    this.levels.add({ id, url: page.url, level: page.level });
  }

  /** The address that a reference means, without secrets; undefined for what is no page. */
  private addressOf(reference: string, base: string): string | undefined {
    const whole = this.addresses.of(reference, base);
    return whole === undefined ? undefined : this.cut.shown(whole);
  }

  private newPage(url: string, origin: PageOrigin, level: number): NewPage {
    const whole = this.cut.hidden(url);
    return {
      url,
      sealed: whole === undefined ? undefined : this.machine.sealer.seal(whole),
      origin,
      level,
      folder: folderOf(url),
    };
  }

  /** The next page of the lowest level; a level begins when the one before is stored. */
  private next(): WaitingPage | undefined {
    if (this.dispatched >= this.settings.maxPages) return undefined;
    const lowest = this.levels.lowest();
    if (lowest > this.settings.maxDepth) return undefined;
    if (lowest > this.level && (this.inFlight > 0 || this.batches.waiting > 0)) return undefined;
    this.level = Math.max(this.level, lowest);
    this.dispatched++;
    return this.levels.take(lowest);
  }

  private dispatch(page: WaitingPage): void {
    this.inFlight++;
    void this.gate
      .run(page.url, () => this.visit(page))
      .then((visit) => visit && this.keep(page, visit))
      .catch((error: unknown) => {
        if (!this.options.control.signal.aborted) this.batches.fault ??= error;
      })
      .finally(() => {
        this.inFlight--;
        this.busy.delete(page.id);
        this.wake();
      });
  }

  /** Visits one page; undefined when it is put off or the crawl stops. */
  private async visit(page: WaitingPage): Promise<Visit | undefined> {
    const { signal } = this.options.control;
    if (signal.aborted) return undefined;
    this.busy.set(page.id, page.url);
    const asked = this.cut.asked(page.url);
    if (this.settings.obeyRobots) {
      const robots = await this.robots.of(asked);
      if (!robots.allows(asked))
        return robots.fault === undefined
          ? failedVisit(page, 'robots.txt asks not to fetch it.', 'skipped')
          : failedVisit(page, `${robots.fault}.`, 'failed');
    }
    let answer: Fetched;
    try {
      answer = await this.client.get(asked, 'page', signal);
    } catch (error) {
      if (signal.aborted) return undefined;
      if (!(error instanceof FetchError)) throw error;
      if (error.passing && this.again(page, this.options.retryMs ?? 1000)) return undefined;
      return failedVisit(page, `It was not fetched: ${error.message}.`);
    }
    if (answer.status === 429 || answer.status === 503) {
      const asked = retryAfterS(answer.headers['retry-after'], Date.now());
      const wait = asked === undefined ? (this.options.retryMs ?? 1000) * 5 : asked * 1000;
      const host = new URL(page.url).host;
      this.notes.add('slowed', host, page.url, `The host answered ${answer.status} and was left in peace for a while.`);
      if (wait > MAX_WAIT_MS)
        return failedVisit(
          page,
          `The host answered ${answer.status} and asks for ${asked} s of peace: longer than is waited.`,
        );
      this.gate.pause(page.url, wait);
      if (this.again(page, 0)) return undefined;
      return failedVisit(page, `The host went on answering ${answer.status}.`);
    }
    return this.read(page, answer);
  }

  private async read(page: WaitingPage, answer: Fetched): Promise<Visit> {
    const asked = this.cut.asked(page.url);
    const visit = visitOf({ id: page.id, url: asked }, answer, {
      secrets: this.cut.secrets,
      own: this.own,
      protocol: await this.protocols.of(page.url),
      judge: (raw, base, nofollow, from) => this.judge(raw, base, nofollow, from, page.level + 1),
    });
    if (this.settings.obeyNoindex && /\bnoindex\b/.test(visit.robots ?? ''))
      return {
        ...failedVisit(page, 'It asks not to be indexed.', 'skipped'),
        robots: visit.robots,
        status: visit.status,
      };
    if (!visit.redirectTo) return visit;
    const target = this.addressOf(visit.redirectTo, asked);
    if (target === undefined || target === page.url)
      return { ...visit, redirectTo: target ?? this.cut.shown(visit.redirectTo) };
    const inside = this.admit(target, page.url, page.level, 'redirect');
    // Pages of the sweep are visited for themselves; only what lies outside is followed from here.
    const outside = inside ? undefined : JSON.stringify(await this.followOutside(target));
    return { ...visit, redirectTo: target, outside };
  }

  private async followOutside(target: string): Promise<Hop[]> {
    const { signal } = this.options.control;
    const { hops } = await followRedirects(this.client, this.cut.asked(target), 'none', signal);
    return hops.map((h) => ({ ...h, url: this.cut.shown(h.url) }));
  }

  private judge(raw: string, base: string, nofollow: boolean, from: string, level: number) {
    const url = this.addressOf(raw, base);
    if (url === undefined) return undefined;
    if (this.known.has(url)) return { url, inside: true };
    if (!this.settings.followLinks || (nofollow && this.settings.obeyNofollow)) return { url, inside: false };
    return { url, inside: this.admit(url, from, level, 'link') };
  }

  /** Takes a new address into the sweep unless scope or a trap forbids it. */
  private admit(url: string, from: string, level: number, origin: PageOrigin): boolean {
    if (this.known.has(url)) return true;
    if (this.inScope(url)) return false;
    const trap = this.traps.judge(url);
    if (trap) {
      this.notes.add(
        'trap',
        trap === 'variants' ? `variants of ${url.split('?')[0]}` : trap,
        url,
        TRAP_MEANS[trap],
        from,
      );
      return false;
    }
    this.known.set(url, 0);
    this.batches.find(this.newPage(url, origin, level));
    return true;
  }

  /** Puts a page off for another attempt; false when it has had enough of them. */
  private again(page: WaitingPage, afterMs: number): boolean {
    const tried = (this.attempts.get(page.id) ?? 0) + 1;
    this.attempts.set(page.id, tried);
    if (tried >= ATTEMPTS) return false;
    this.dispatched--;
    if (afterMs > 0) this.gate.pause(page.url, afterMs);
    this.levels.add(page);
    return true;
  }

  private keep(page: WaitingPage, visit: Visit): void {
    this.attempts.delete(page.id);
    this.tally.add(page.url, visit);
    this.batches.add(visit);
  }

  private async save({ found, visits }: VisitBatch): Promise<void> {
    try {
      const batch = { found, visits, notes: this.notes.takeAll() };
      const idOf = (url: string) => this.known.get(url) || undefined;
      const ids = await saveVisits(this.store, this.sweepId, batch, idOf);
      for (const page of found) this.take(page, ids);
      this.report('fetching pages');
    } finally {
      this.wake();
    }
  }

  /** Says of every page that was not visited why. */
  private async explainRest(wanted: Wanted | undefined): Promise<void> {
    const { maxDepth, maxPages } = this.settings;
    if (wanted === 'cancel') return skipWaiting(this.store, this.sweepId, 'cancelled');
    await skipWaiting(this.store, this.sweepId, 'deeper', maxDepth);
    await skipWaiting(this.store, this.sweepId, 'beyond', maxPages);
  }

  private change(): Promise<void> {
    return new Promise<void>((done) => {
      this.wake = done;
      // Progress goes on while nothing arrives.
      const timer = setTimeout(done, 500);
      timer.unref();
    }).then(() => this.report('fetching pages'));
  }

  private report(phase: string): void {
    const [waiting] = this.gate.waiting();
    const state = { known: this.known.size, maxPages: this.settings.maxPages, busy: this.busy.values(), waiting };
    this.options.onProgress?.(this.tally.progress(state, Date.now()), phase);
  }
}
