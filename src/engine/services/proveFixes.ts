import { chromium, type Browser } from 'playwright-core';
import { PageError } from '../../core/capture/errors';
import type { Fix } from '../../core/fixes/fix';
import type { Visitor } from '../../core/load/visitors';
import type { Audit } from '../../core/plan/audit';
import { forecast } from '../../core/plan/forecast';
import { changeOfRuns, heldOf, RUNS, samplesOfRuns, saysEnough, type Held, type Promised, type Samples } from '../../core/proof/proof';
import { VERSION } from '../../core/version';
import { editedSite } from '../imaging/editedSite';
import { similarityOf } from '../imaging/similarity';
import { firstLine } from '../record/browser';
import { browserSwitches, findChromium } from '../record/chromium';
import { within } from '../record/deadline';
import { editedAnswers, hostsOf, recordedAnswers, type Levels } from '../replay/answers';
import type { Answer, ReplayHost } from '../replay/messages';
import { NamespaceLink } from '../replay/namespaces';
import { ReplayChild } from '../replay/replayChild';
import { visitReplay, type Frame, type ReplayVisit } from '../replay/visit';

/** How the link of a proof is made: by the system, or by us in user space. */
export type ProofLink = 'namespaces' | 'userspace';

/** What to prove, and how. */
export interface ProveOptions {
  readonly visitor: Visitor;
  readonly fixes: readonly Fix[];
  /** So many of each side; undefined: from three on until they say enough. */
  readonly runs?: number;
  /** The stronger one that this machine has if not stated. */
  readonly link?: ProofLink;
  /** Also film one visit of each side. */
  readonly film?: boolean;
  readonly onProgress?: (progress: ProofProgress) => void;
  readonly signal?: AbortSignal;
}

export interface ProofProgress {
  readonly done: number;
  /** As it looks now. */
  readonly total: number;
  readonly leftMs?: number;
  readonly text: string;
}

/** A forecast, and what a real browser measured. */
export interface Proof {
  readonly version: string;
  readonly browser: string;
  readonly provedAt: string;
  readonly page: string;
  readonly visitor: string;
  readonly link: ProofLink;
  /** Of each side. */
  readonly runs: number;
  readonly fixes: readonly { readonly id: string; readonly kind: string; readonly target: string }[];
  readonly before: Samples;
  readonly after: Samples;
  readonly change: Samples;
  readonly forecast: Promised;
  readonly held: Held;
  /** Element or file of the largest paint. */
  readonly hero: { readonly before: string; readonly after: string };
  /** Similarity of the first screens, 0 to 1; and of two first screens without fixes. */
  readonly firstScreenAlike: number;
  readonly firstScreenItself: number;
  readonly unanswered: readonly string[];
  readonly newErrors: readonly string[];
  /** What the replay does otherwise than the recording, in plain words. */
  readonly differs: readonly string[];
}

/** A proof with its pictures. */
export interface ProofWithPictures {
  readonly proof: Proof;
  readonly screens: { readonly before?: Buffer; readonly after?: Buffer };
  readonly film: { readonly before: readonly Frame[]; readonly after: readonly Frame[] };
}

/** The host of this machine took more than this share of processor time: the run is made again, so often at most. */
const MOST_STEAL = 0.08;
const MOST_REPEATS = 2;

/**
 * Proves fixes on a captured page: loads it in a real browser over a visitor's link, without and with them in turn, each
 * time with a new profile, from servers that answer as recorded. Nothing leaves this machine.
 * @throws PageError when the browser or the replay fails, or the page shows nothing; the reason of the signal
 */
export async function proveFixes(audit: Audit, options: ProveOptions): Promise<ProofWithPictures> {
  const { visitor, fixes, signal } = options;
  const levels: Levels = new Map();
  const base = await recordedAnswers(audit, audit.graph, levels);
  const fixed = await editedAnswers(base, await editedSite(fixes, audit), levels);
  const hosts = hostsOf(audit, audit.graph, [...base.answers, ...fixed.answers]);
  const differs = new Set([...base.differs, ...fixed.differs]);
  if (!sameScreen(audit, visitor))
    differs.add('The screen is the recording\'s, not the visitor\'s: other pictures were never captured.');
  const stage = await Stage.open(hosts, options, audit.graph.lookups, differs);
  try {
    return await stage.prove(audit, base.answers, fixed.answers, differs);
  } catch (error) {
    signal?.throwIfAborted();
    if (error instanceof PageError) throw error;
    throw new PageError(`The proof broke off: ${firstLine(error)}`, audit.page.capture.page, 'Try once more, with fewer fixes or --link userspace.');
  } finally {
    await stage.close();
  }
}

const sameScreen = ({ page: { capture } }: Audit, v: Visitor) =>
  capture.conditions.screenWidth === v.screenWidth && capture.conditions.density === v.density;

/** Servers, link and browser of one proof. */
class Stage {
  private constructor(
    private readonly options: ProveOptions,
    private readonly linkName: ProofLink,
    private readonly servers: ReplayChild,
    private readonly browser: Browser,
    private readonly link: NamespaceLink | undefined,
  ) {}

  static async open(hosts: readonly ReplayHost[], options: ProveOptions, lookups: boolean, differs: Set<string>): Promise<Stage> {
    const missing = NamespaceLink.missing();
    if (options.link === 'namespaces' && missing)
      throw new PageError(`This link cannot be made: ${missing}.`, '--link namespaces', 'Use --link userspace.');
    const names = [...new Set(hosts.map((h) => h.host))];
    let link: NamespaceLink | undefined;
    if (options.link !== 'userspace' && !missing) {
      try {
        link = await NamespaceLink.start(options.visitor, names.length);
      } catch (error) {
        if (options.link) throw error;
        differs.add(`The system's link could not be made (${firstLine(error)}): it is emulated in user space.`);
      }
    }
    let servers: ReplayChild | undefined;
    try {
      const addresses = link?.addresses(names) ?? {};
      servers = await ReplayChild.start(
        hosts,
        link
          ? { kind: 'namespaces', addresses, node: link.on('far', process.execPath) }
          : { kind: 'userspace', link: options.visitor, lookups },
      );
      const program = findChromium();
      const maps = link ? names.map((n) => `${n}=${addresses[n] ?? ''}`) : [];
      const browser = await within(
        40_000,
        chromium.launch({
          executablePath: link ? link.on('near', program) : program,
          headless: true,
          args: [
            ...browserSwitches(maps, false, link ? { mappedOnly: true } : { proxyPort: servers.proxyPort }),
            `--ignore-certificate-errors-spki-list=${servers.keyHash}`,
          ],
        }),
        options.signal,
        'Chromium',
      );
      return new Stage(options, link ? 'namespaces' : 'userspace', servers, browser, link);
    } catch (error) {
      servers?.stop();
      link?.stop();
      throw error;
    }
  }

  async close(): Promise<void> {
    await within(5000, this.browser.close(), undefined, 'Chromium').catch(() => undefined);
    this.servers.stop();
    this.link?.stop();
  }

  async prove(audit: Audit, base: readonly Answer[], fixed: readonly Answer[], differs: Set<string>): Promise<ProofWithPictures> {
    const { visitor, fixes, runs } = this.options;
    const most = runs ?? RUNS.most;
    const before: ReplayVisit[] = [];
    const after: ReplayVisit[] = [];
    const unanswered = new Set<string>();
    const side = async (answers: readonly Answer[], list: ReplayVisit[] | undefined, more: { screenshot?: boolean; film?: boolean }) => {
      await this.servers.answer(answers);
      let visit = await this.visit(audit, more);
      for (let n = 0; list && n < MOST_REPEATS && visit.steal > MOST_STEAL; n++) visit = await this.visit(audit, more);
      const report = await this.servers.report();
      for (const url of [...report.unanswered, ...visit.unreachable]) unanswered.add(url);
      for (const { asked, as } of report.likened.slice(0, 20)) differs.add(`${asked} was answered as ${as}.`);
      await this.servers.hangUp();
      list?.push(visit);
      return visit;
    };
    const planned = runs ?? RUNS.planned;
    const started = Date.now();
    const total = () => 2 * Math.max(planned, Math.min(before.length + 1, most)) + (this.options.film ? 2 : 0) + 1;
    const tell = (done: number, text: string) =>
      this.options.onProgress?.({
        done,
        total: total(),
        leftMs: done > 1 ? ((Date.now() - started) / done) * (total() - done) : undefined,
        text,
      });
    tell(0, 'warming up');
    // The first visit of a browser is slower than the rest; of two screens without fixes one is compared with the other.
    const warm = await side(base, undefined, { screenshot: true });
    if (warm.fcpMs < 0)
      throw new PageError(
        'The replayed page shows nothing: the capture lacks what it needs.',
        audit.page.capture.page,
        unanswered.size > 0 ? `Not captured: ${[...unanswered].slice(0, 3).join(', ')}. Record it anew.` : 'Record it anew.',
      );
    while (before.length < most) {
      const last = before.length === 0;
      tell(2 * before.length + 1, `run ${2 * before.length + 1} of about ${total()}`);
      await side(base, before, { screenshot: last });
      tell(2 * before.length, `run ${2 * before.length} of about ${total()}`);
      await side(fixed, after, { screenshot: last });
      if (runs === undefined && saysEnough(shown(before), shown(after))) break;
    }
    const filmed = { before: [] as readonly Frame[], after: [] as readonly Frame[] };
    if (this.options.film) {
      tell(2 * before.length + 1, 'filming');
      filmed.before = (await side(base, undefined, { film: true })).frames;
      filmed.after = (await side(fixed, undefined, { film: true })).frames;
    }
    const change = changeOfRuns(shown(before), shown(after));
    const promised = forecast(audit.graph, fixes, visitor);
    const screens = { before: before[0]?.screenshot, after: after[0]?.screenshot };
    const known = new Set([warm, ...before].flatMap((v) => v.errors));
    return {
      screens,
      film: filmed,
      proof: {
        version: VERSION,
        browser: `Chromium ${this.browser.version()}`,
        provedAt: new Date().toISOString(),
        page: audit.page.capture.page,
        visitor: visitor.id,
        link: this.linkName,
        runs: before.length,
        fixes: fixes.map(({ id, kind, target }) => ({ id, kind, target })),
        before: samplesOfRuns(shown(before)),
        after: samplesOfRuns(shown(after)),
        change,
        forecast: { change: promised.change, range: promised.range },
        held: heldOf(change, promised),
        hero: { before: before[0]?.hero ?? '', after: after[0]?.hero ?? '' },
        firstScreenAlike: await alike(screens.before, screens.after),
        firstScreenItself: await alike(warm.screenshot, screens.before),
        unanswered: [...unanswered],
        newErrors: [...new Set(after.flatMap((v) => v.errors))].filter((e) => !known.has(e)),
        differs: [...differs],
      },
    };
  }

  private visit(audit: Audit, more: { screenshot?: boolean; film?: boolean }): Promise<ReplayVisit> {
    const { capture } = audit.page;
    return visitReplay(this.browser, capture.requested || capture.page, {
      screen: capture.conditions,
      cpuFactor: this.options.visitor.cpuFactor,
      clockMs: Date.parse(capture.recordedAt) || Date.now(),
      signal: this.options.signal,
      ...more,
    });
  }
}

/** Visits that came to show something; all of them when none did. */
function shown(visits: readonly ReplayVisit[]): readonly ReplayVisit[] {
  const good = visits.filter((v) => v.lcpMs >= 0);
  return good.length > 0 ? good : visits;
}

async function alike(a: Buffer | undefined, b: Buffer | undefined): Promise<number> {
  return a && b ? ((await similarityOf(a, b)) ?? 0) : 0;
}
