import type { AstroGlobal } from 'astro';
import type { Device } from '../core/capture/capture';
import { deviceOf, VISITORS, type Visitor } from '../core/load/visitors';
import { chooseSweep } from '../core/site/currentSweep';
import type { BestGains } from '../core/plan/bestGains';
import type { GroupInfo } from '../core/plan/sweepForecast';
import { picturesAreKept, type HeroPictures } from '../engine/services/loadPictures';
import { timesAreKept } from '../engine/services/pageTimes';
import { filesAreKept } from '../engine/services/sweepFiles';
import { forecastIsKept } from '../engine/services/sweepForecasts';
import { store } from '../engine/services/openedStore';
import type { OverviewAnswer, SiteAnswer } from '../islands/state/types';
import { ME } from '../islands/frame/AccountMenu';
import { picturesPath } from '../islands/hero/heroPages';
import { proofsPath } from '../islands/proofs/proofsPath';
import { bestGainsPath, forecastPath, groupsPath, overviewPath } from '../islands/state/sweepPaths';
import { asVisitor, OWN_VISITORS, visitorNamed } from '../islands/state/visitors';
import type { OwnVisitor } from '../engine/store/ownVisitors';
import { answerOf, serve } from './served';

/** A sweep with more recorded pages may offer thousands of fixes. */
const FEW_PAGES = 100;

/** What a screen of a site is drawn for. */
export interface SiteRequest {
  readonly siteId: number;
  readonly site?: SiteAnswer;
  readonly sweepId?: number;
  readonly overview?: OverviewAnswer;
  readonly visitor: Visitor;
}

/** Gathers the answers that a page's first content rests on, and serves them along with it. */
export class Screen {
  private readonly answers: Record<string, unknown> = {};
  /** The same as they are sent. */
  private readonly texts: Record<string, string> = {};

  constructor(private readonly astro: AstroGlobal) {}

  /** The API's answer at a path; it is sent along with the page. */
  async know<T>(path: string | undefined | 0): Promise<T | undefined> {
    if (!path) return undefined;
    const answer = await answerOf<T>(this.astro, path);
    if (!answer) return undefined;
    this.answers[path] = answer.value;
    this.texts[path] = answer.text;
    return answer.value;
  }

  /** The visitor that the address names, among the built-in ones and the users' own. */
  async visitor(): Promise<Visitor> {
    const [own] = await Promise.all([this.know<OwnVisitor[]>(OWN_VISITORS), this.know(ME)]);
    return visitorNamed(this.query.get('visitor') ?? '', [...VISITORS, ...(own ?? []).map(asVisitor)]);
  }

  /** Parameters of the address. */
  get query(): URLSearchParams {
    return this.astro.url.searchParams;
  }

  /** A number in the path; 0 for what is none. */
  number(name: string): number {
    const n = Number(this.astro.params[name]);
    return Number.isSafeInteger(n) && n > 0 ? n : 0;
  }

  /** What every screen of a site shows: the site, its sweep, the visitor and what is kept of them. */
  async site(): Promise<SiteRequest> {
    const siteId = this.number('site');
    const [visitor, site] = await Promise.all([
      this.visitor(),
      this.know<SiteAnswer>(`/api/sites/${siteId}`),
      this.know(proofsPath(siteId)),
    ]);
    const sweepId = chooseSweep(site?.sweeps ?? [], Number(this.query.get('sweep')))?.id;
    if (!site) this.astro.response.status = 404;
    if (sweepId === undefined) return { siteId, site, visitor };
    const overview = await this.know<OverviewAnswer>(overviewPath(sweepId, deviceOf(visitor)));
    // Of very many fixes only screens that name them all wait for all; the others read them once they are drawn.
    if (this.query.get('bench') || this.query.get('fix') || (overview?.pages.length ?? 0) <= FEW_PAGES)
      await this.groups(sweepId, visitor);
    // Only what is there already: a page does not wait for a forecast.
    if (overview && overview.pages.length > 0 && (await forecastIsKept(await store(), sweepId, visitor)))
      await this.know(forecastPath(sweepId, visitor.id));
    return { siteId, site, sweepId, overview, visitor };
  }

  /** The groups of fixes that a sweep offers. */
  async groups(sweepId: number | undefined, visitor: Visitor): Promise<readonly GroupInfo[] | undefined> {
    return this.know<GroupInfo[]>(sweepId && groupsPath(sweepId, deviceOf(visitor)));
  }

  /** The device that a sweep is shown for, and the visitor. */
  asked({ overview, visitor }: SiteRequest): { device: Device; visitor: string } {
    return { device: overview?.device ?? 'phone', visitor: visitor.id };
  }

  /** The best fixes for each page, if the forecast has been made. */
  async bestGains({ sweepId, visitor }: SiteRequest): Promise<BestGains | undefined> {
    if (!sweepId || !(await forecastIsKept(await store(), sweepId, visitor))) return undefined;
    return this.know<BestGains>(bestGainsPath(sweepId, visitor.id));
  }

  /** What Hero shows, if it has been made: a page does not wait for it. */
  heroes(at: SiteRequest): Promise<HeroPictures | undefined> {
    return this.pictures('heroes', at);
  }

  /** What Blocking shows, if it has been made. */
  async chains(at: SiteRequest): Promise<void> {
    await this.pictures('chains', at);
  }

  private async pictures<T>(part: 'heroes' | 'chains', { sweepId, visitor }: SiteRequest): Promise<T | undefined> {
    if (!sweepId || !(await picturesAreKept(await store(), sweepId, visitor))) return undefined;
    return this.know<T>(picturesPath(part, sweepId, visitor.id));
  }

  /** An answer about the files of a sweep, once these have been put together: a page does not wait for that. */
  async files(at: SiteRequest, pathOf: (sweepId: number, device: Device) => string): Promise<void> {
    const device = at.overview?.device;
    if (at.sweepId && device && (await filesAreKept(await store(), at.sweepId, device)))
      await this.know(pathOf(at.sweepId, device));
  }

  /** A comparison, once what it rests on is there of both sweeps: simulated times and files. */
  async compared(at: SiteRequest, pathOf: (sweepId: number) => string): Promise<void> {
    const device = at.overview?.device;
    if (!at.sweepId || !device) return;
    const db = await store();
    const isReady = async (sweepId: number) =>
      (await filesAreKept(db, sweepId, device)) && (await timesAreKept(db, sweepId, at.visitor));
    const sweeps = at.site?.sweeps ?? [];
    const older = sweeps.slice(sweeps.findIndex((s) => s.id === at.sweepId) + 1).find((s) => s.captures > 0);
    const other = Number(this.query.get('with')) || older?.id;
    if ((await isReady(at.sweepId)) && (other === undefined || (await isReady(other))))
      await this.know(pathOf(at.sweepId));
  }

  /** Hands what was gathered to the islands and returns it as JSON that can stand in a page. */
  serve(): string {
    const { url, request } = this.astro;
    const phone =
      request.headers.get('sec-ch-ua-mobile') === '?1' || /Mobi/.test(request.headers.get('user-agent') ?? '');
    const told = Number(this.astro.cookies.get('width')?.value);
    const width = told >= 200 && told <= 10_000 ? told : phone ? 400 : 1280;
    const served = { url: url.href, width, answers: this.answers, at: Date.now() };
    serve(served);
    const answers = Object.entries(this.texts).map(([path, text]) => `${JSON.stringify(path)}:${text}`);
    const rest = JSON.stringify({ ...served, answers: undefined });
    return `${rest.slice(0, -1)},"answers":{${answers.join()}}}`.replaceAll('<', '\\u003c');
  }
}
