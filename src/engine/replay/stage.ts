import type { Conditions } from '../../core/capture/capture';
import { PageError } from '../../core/capture/errors';
import type { Link } from '../../core/load/graph';
import { firstLine } from '../record/browser';
import { browserSwitches, chromiumVersion, findChromium } from '../record/chromium';
import { within } from '../record/deadline';
import { contextFor } from '../record/screen';
import { startVisitorBrowser, type VisitorBrowserOptions } from '../record/visitorBrowser';
import type { Answer, ReplayHost, ReplayReport } from './messages';
import { NamespaceLink } from './namespaces';
import { ReplayChild } from './replayChild';
import { visitReplay, type ReplayVisit, type VisitOptions } from './visit';

/** How the link of a replay is made: by the system, or by us in user space. */
export type ProofLink = 'namespaces' | 'userspace';

/** The host of this machine took more than this share of processor time: the visit is made again, so often at most. */
const MOST_STEAL = 0.08;
const MOST_REPEATS = 2;

const START_MS = 60_000;

/** The screen of a visitor. */
export type Screen = Pick<Conditions, 'screenWidth' | 'screenHeight' | 'density' | 'touch'>;

/** What a stage needs to know. */
export interface StageOptions {
  readonly hosts: readonly ReplayHost[];
  readonly link: Link;
  /** The stronger way that this machine has if not stated. */
  readonly way?: ProofLink;
  /** Names are looked up, which costs a round trip each. */
  readonly lookups: boolean;
  readonly signal?: AbortSignal;
}

/** Servers and link of a replay: visits are made on it one after the other, each in a browser of its own. */
export class Stage {
  private constructor(
    readonly way: ProofLink,
    /** Why it is not the way that would have been taken first. */
    readonly notes: readonly string[],
    private readonly link: Link,
    private readonly servers: ReplayChild,
    private readonly browser: Pick<VisitorBrowserOptions, 'executablePath' | 'args'>,
    private readonly version: string,
    private readonly namespaces: NamespaceLink | undefined,
  ) {}

  /** @throws PageError when the wanted way is not to be had; Error when servers do not start or there is no browser */
  static async open(options: StageOptions): Promise<Stage> {
    const { hosts, link, way, signal } = options;
    const missing = NamespaceLink.missing();
    if (way === 'namespaces' && missing)
      throw new PageError(`This link cannot be made: ${missing}.`, '--link namespaces', 'Use --link userspace.');
    const names = [...new Set(hosts.map((h) => h.host))];
    const notes: string[] = [];
    let namespaces: NamespaceLink | undefined;
    if (way !== 'userspace' && !missing) {
      try {
        namespaces = await NamespaceLink.start(link, names.length);
      } catch (error) {
        if (way) throw error;
        notes.push(`The system's link could not be made (${firstLine(error)}): it is emulated in user space.`);
      }
    }
    let servers: ReplayChild | undefined;
    try {
      const addresses = namespaces?.addresses(names) ?? {};
      servers = await ReplayChild.start(
        hosts,
        namespaces
          ? { kind: 'namespaces', addresses, node: namespaces.on('far', process.execPath) }
          : { kind: 'userspace', link, lookups: options.lookups },
      );
      const program = findChromium();
      const maps = Object.entries(servers.places).map(([from, to]) => `${from}=${to}`);
      const browser = {
        executablePath: namespaces ? namespaces.on('near', program) : program,
        args: [
          ...browserSwitches(maps, false, { mappedOnly: true }),
          `--ignore-certificate-errors-spki-list=${servers.keyHash}`,
        ],
      };
      const version = await within(20_000, chromiumVersion(), signal, 'Chromium');
      return new Stage(namespaces ? 'namespaces' : 'userspace', notes, link, servers, browser, version, namespaces);
    } catch (error) {
      servers?.stop();
      namespaces?.stop();
      throw error;
    }
  }

  get browserName(): string {
    return `Chromium ${this.version}`;
  }

  /** Visits a page whose servers answer so, with a new profile; again while the host of this machine disturbs. */
  async visit(
    answers: readonly Answer[],
    url: string,
    options: Omit<VisitOptions, 'cpuFactor'> & { readonly screen: Screen },
  ): Promise<{ visit: ReplayVisit; report: ReplayReport }> {
    await this.servers.answer(answers);
    const once = async () => {
      const settings = { ...contextFor(options.screen, this.version), ...this.browser };
      const starting = startVisitorBrowser(settings);
      const browser = await within(START_MS, starting, options.signal, 'Chromium').catch((error: unknown) => {
        starting.then((late) => late.close()).catch(() => undefined);
        throw error;
      });
      try {
        return await visitReplay(browser.context, url, { ...options, cpuFactor: this.link.cpuFactor });
      } finally {
        await browser.close().catch(() => undefined);
      }
    };
    let visit = await once();
    for (let n = 0; n < MOST_REPEATS && visit.steal > MOST_STEAL; n++) {
      await this.servers.hangUp();
      visit = await once();
    }
    const report = await this.servers.report();
    await this.servers.hangUp();
    return { visit, report };
  }

  /** Ends servers and link. Never fails. */
  close(): void {
    this.servers.stop();
    this.namespaces?.stop();
  }
}
