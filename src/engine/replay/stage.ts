import { chromium, type Browser } from 'playwright-core';
import { PageError } from '../../core/capture/errors';
import type { Link } from '../../core/load/graph';
import { firstLine } from '../record/browser';
import { browserSwitches, findChromium } from '../record/chromium';
import { within } from '../record/deadline';
import type { Answer, ReplayHost, ReplayReport } from './messages';
import { NamespaceLink } from './namespaces';
import { ReplayChild } from './replayChild';
import { visitReplay, type ReplayVisit, type VisitOptions } from './visit';

/** How the link of a replay is made: by the system, or by us in user space. */
export type ProofLink = 'namespaces' | 'userspace';

/** The host of this machine took more than this share of processor time: the visit is made again, so often at most. */
const MOST_STEAL = 0.08;
const MOST_REPEATS = 2;

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

/** Servers, link and browser of a replay: visits are made on it one after the other. */
export class Stage {
  private constructor(
    readonly way: ProofLink,
    /** Why it is not the way that would have been taken first. */
    readonly notes: readonly string[],
    private readonly link: Link,
    private readonly servers: ReplayChild,
    private readonly browser: Browser,
    private readonly namespaces: NamespaceLink | undefined,
  ) {}

  /** @throws PageError when the wanted way is not to be had; Error when servers or browser do not start */
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
      const browser = await within(
        40_000,
        chromium.launch({
          executablePath: namespaces ? namespaces.on('near', program) : program,
          headless: true,
          args: [
            ...browserSwitches(maps, false, { mappedOnly: true }),
            `--ignore-certificate-errors-spki-list=${servers.keyHash}`,
          ],
        }),
        signal,
        'Chromium',
      );
      return new Stage(namespaces ? 'namespaces' : 'userspace', notes, link, servers, browser, namespaces);
    } catch (error) {
      servers?.stop();
      namespaces?.stop();
      throw error;
    }
  }

  get browserName(): string {
    return `Chromium ${this.browser.version()}`;
  }

  /** Visits a page whose servers answer so, with a new profile; again while the host of this machine disturbs. */
  async visit(
    answers: readonly Answer[],
    url: string,
    options: Omit<VisitOptions, 'cpuFactor'>,
  ): Promise<{ visit: ReplayVisit; report: ReplayReport }> {
    await this.servers.answer(answers);
    const once = () => visitReplay(this.browser, url, { ...options, cpuFactor: this.link.cpuFactor });
    let visit = await once();
    for (let n = 0; n < MOST_REPEATS && visit.steal > MOST_STEAL; n++) {
      await this.servers.hangUp();
      visit = await once();
    }
    const report = await this.servers.report();
    await this.servers.hangUp();
    return { visit, report };
  }

  /** Ends browser, servers and link. Never fails. */
  async close(): Promise<void> {
    await within(5000, this.browser.close(), undefined, 'Chromium').catch(() => undefined);
    this.servers.stop();
    this.namespaces?.stop();
  }
}
