import type { Capture, Load } from '../capture/capture';
import { originOf } from '../capture/url';
import { ownAddress } from '../fixes/selfHost';
import type { LoadGraph } from '../load/graph';
import type { Replay } from '../load/replay';

/**
 * A HAR 1.2 document of a capture with the times that a simulation gave its loads: how the load
 * would be recorded with fixes applied. Bodies are left out; loads that no longer happen too.
 */
export function retimedHar(capture: Capture, graph: LoadGraph, replay: Replay, version: string): object {
  const start = Date.parse(capture.recordedAt);
  const iso = (ms: number) => new Date(start + ms).toISOString();
  const entries = graph.fetches.flatMap((fetch) => {
    const times = replay.fetches[fetch.id];
    const load = capture.loads[fetch.load];
    if (!times || !load || times.foundMs < 0 || fetch.refused) return [];
    const url = originOf(fetch.url) === fetch.origin ? fetch.url : ownAddress(fetch.url, graph.page);
    return [retimedEntry(load, url, fetch.bodyBytes, times, iso)];
  });
  return {
    log: {
      version: '1.2',
      creator: { name: 'Keen Lens forecast', version },
      pages: [
        {
          startedDateTime: iso(0),
          id: 'page_1',
          title: capture.title,
          pageTimings: { onContentLoad: replay.milestones.dclMs, onLoad: replay.milestones.loadMs },
          _lens: {
            conditions: capture.conditions,
            ttfbMs: replay.milestones.ttfbMs,
            fcpMs: replay.milestones.fcpMs,
            lcpMs: replay.milestones.lcpMs,
            notes: ['Times are a forecast, not a recording.'],
          },
        },
      ],
      entries: entries.sort((a, b) => (a.startedDateTime < b.startedDateTime ? -1 : 1)),
    },
  };
}

function retimedEntry(
  load: Load,
  url: string,
  bodyBytes: number,
  times: Replay['fetches'][number],
  iso: (ms: number) => string,
) {
  const wait = Math.max(0, times.firstByteMs - times.sentMs);
  const receive = Math.max(0, times.endMs - times.firstByteMs);
  const blocked = Math.max(0, times.sentMs - times.foundMs);
  return {
    pageref: 'page_1',
    startedDateTime: iso(times.foundMs),
    time: blocked + wait + receive,
    request: {
      method: load.method,
      url,
      httpVersion: load.protocol,
      cookies: [],
      headers: load.requestHeaders,
      queryString: [],
      headersSize: load.requestBytes,
      bodySize: 0,
    },
    response: {
      status: load.status,
      statusText: '',
      httpVersion: load.protocol,
      cookies: [],
      headers: load.responseHeaders,
      content: { size: load.decodedBytes, mimeType: load.mimeType },
      redirectURL: load.redirectTo ?? '',
      headersSize: load.headerBytes,
      bodySize: bodyBytes,
    },
    cache: {},
    timings: { blocked, dns: -1, connect: -1, ssl: -1, send: 0, wait, receive },
    _lens: { kind: load.kind, priority: load.priority },
  };
}
