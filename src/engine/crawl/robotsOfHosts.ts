import { readRobots, robotsWithout, type Robots } from '../../core/site/robots';
import type { CrawlClient } from './client';
import { followRedirects } from './followRedirects';

/** Redirects that are followed to a robots.txt: at least five (RFC 9309, section 2.3.1.2). */
const MOST_REDIRECTS = 5;

/** robots.txt of every origin met, asked for once (RFC 9309, section 2.3). */
export class RobotsOfHosts {
  private readonly known = new Map<string, Promise<Robots>>();
  private readonly read = new Map<string, Robots>();

  constructor(
    private readonly client: CrawlClient,
    private readonly signal: AbortSignal,
    private readonly onFault: (url: string, what: string) => void,
  ) {}

  of(url: string): Promise<Robots> {
    const origin = new URL(url).origin;
    let robots = this.known.get(origin);
    if (!robots) {
      robots = this.ask(origin).then((r) => {
        this.read.set(new URL(origin).host, r);
        return r;
      });
      this.known.set(origin, robots);
    }
    return robots;
  }

  /** Seconds between requests that a host asked for, as far as its robots.txt was read. */
  delayOf(host: string): number | undefined {
    return this.read.get(host)?.delayS;
  }

  private async ask(origin: string): Promise<Robots> {
    const asked = `${origin}/robots.txt`;
    const { end, fault } = await followRedirects(this.client, asked, 'robots', this.signal, MOST_REDIRECTS);
    if (fault?.kind === 'failed') {
      const { host } = new URL(origin);
      this.onFault(fault.url, `${host} could not be asked: ${fault.message}.`);
      return robotsWithout(undefined, `${host}: ${fault.message}`);
    }
    // A way without an end counts as a file that is not there (section 2.3.1.2).
    if (!end) return robotsWithout(404);
    const { status, text } = end.answer;
    if (status >= 200 && status < 300) return readRobots(asked, text ?? '');
    if (status >= 500) this.onFault(end.url, `robots.txt answers ${status}: nothing may be asked of this host.`);
    return robotsWithout(status);
  }
}
