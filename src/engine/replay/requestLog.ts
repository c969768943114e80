import type { CDPSession } from 'playwright-core';
import type { MeasuredRequest } from '../../core/proof/measuredLoad';

interface Timing {
  readonly requestTime: number;
  readonly sendStart: number;
  readonly receiveHeadersEnd: number;
}

/** A request as it was seen; times in seconds of the browser's clock. */
interface Seen {
  readonly url: string;
  readonly foundS: number;
  timing?: Timing;
  endS?: number;
}

/** When each request of a visit was made and answered. */
export class RequestLog {
  private readonly seen: Seen[] = [];
  private readonly open = new Map<string, Seen>();
  /** The same moment by both clocks. */
  private first?: { readonly s: number; readonly wallMs: number };

  constructor(session: CDPSession) {
    session.on('Network.requestWillBeSent', (e) => {
      if (!/^https?:/.test(e.request.url)) return;
      this.first ??= { s: e.timestamp, wallMs: e.wallTime * 1000 };
      const hop = this.open.get(e.requestId);
      if (hop && e.redirectResponse) {
        hop.timing = e.redirectResponse.timing;
        hop.endS = e.timestamp;
      }
      const request: Seen = { url: e.request.url, foundS: e.timestamp };
      this.seen.push(request);
      this.open.set(e.requestId, request);
    });
    session.on('Network.responseReceived', (e) => {
      const request = this.open.get(e.requestId);
      if (request) request.timing = e.response.timing;
    });
    const ended = (e: { requestId: string; timestamp: number }) => {
      const request = this.open.get(e.requestId);
      if (request) request.endS = e.timestamp;
    };
    session.on('Network.loadingFinished', ended);
    session.on('Network.loadingFailed', ended);
  }

  /** @param timeOrigin when the navigation started, ms since 1970 */
  since(timeOrigin: number): MeasuredRequest[] {
    const { first } = this;
    if (!first) return [];
    const at = (s: number | undefined) =>
      s === undefined ? -1 : Math.round((first.wallMs - timeOrigin + (s - first.s) * 1000) * 10) / 10;
    return this.seen.map(({ url, foundS, timing, endS }) => ({
      url,
      foundMs: at(foundS),
      sentMs: at(timing && timing.requestTime + timing.sendStart / 1000),
      firstByteMs: at(timing && timing.requestTime + timing.receiveHeadersEnd / 1000),
      endMs: at(endS),
    }));
  }
}
