import { readRobots, robotsWithout, type Robots } from '../../core/site/robots';
import { FetchError, type CrawlClient } from './client';

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
    let url = `${origin}/robots.txt`;
    try {
      // At least five redirects are followed (section 2.3.1.2).
      for (let hop = 0; hop < 6; hop++) {
        const answer = await this.client.get(url, 'text', this.signal);
        const next = answer.headers['location'];
        if (answer.status >= 300 && answer.status < 400 && next) {
          url = new URL(next, url).href;
          continue;
        }
        if (answer.status >= 200 && answer.status < 300) return readRobots(`${origin}/robots.txt`, answer.text ?? '');
        if (answer.status >= 500)
          this.onFault(url, `robots.txt answers ${answer.status}: nothing may be asked of this host.`);
        return robotsWithout(answer.status);
      }
      return robotsWithout(404);
    } catch (error) {
      if (!(error instanceof FetchError)) throw error;
      const { host } = new URL(origin);
      this.onFault(url, `${host} could not be asked: ${error.message}.`);
      return robotsWithout(undefined, `${host}: ${error.message}`);
    }
  }
}
