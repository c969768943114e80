import type { Conditions } from '../../core/capture/capture';
import type { Visitor } from '../../core/load/visitors';
import { roundTripTo } from './askServers';
import type { NetworkLog } from './networkLog';

/** The link and screen of a recording: as they were set, or as the loads themselves tell. */
export async function conditionsOf(
  { visitor, network }: { readonly visitor: Visitor; readonly network?: 'recorded' | 'visitor' },
  log: NetworkLog,
): Promise<Conditions> {
  const screen = {
    screenWidth: visitor.screenWidth,
    screenHeight: visitor.screenHeight,
    density: visitor.density,
    touch: visitor.touch,
  };
  if (network === 'visitor') {
    return {
      ...screen,
      rttMs: visitor.rttMs,
      downKbps: visitor.downKbps,
      upKbps: visitor.upKbps,
      cpuFactor: visitor.cpuFactor,
      stated: true,
    };
  }
  const rttMs = await roundTrip(log);
  const rates = log.loads
    .filter((l) => l.timing && l.endS !== undefined && l.wireBytes > 50_000)
    .map(
      (l) =>
        (l.wireBytes * 8) /
        Math.max(0.5, ((l.endS ?? 0) - (l.timing?.requestTime ?? 0)) * 1000 - (l.timing?.receiveHeadersEnd ?? 0)),
    );
  return {
    ...screen,
    rttMs: Math.round(rttMs * 100) / 100,
    downKbps: Math.round(Math.max(20_000, ...rates)),
    upKbps: 50_000,
    cpuFactor: 1,
    stated: true,
  };
}

/**
 * Round trip of the link, in ms: a handshake with the page's own server; where that is not to be had, the middle of what
 * the browser took for TCP. No answer is quicker than a round trip.
 */
async function roundTrip(log: NetworkLog): Promise<number> {
  const own = log.loads.find((l) => l.kind === 'document' && l.status === 200 && l.address);
  const port = own?.port ?? (own?.url.startsWith('https:') ? 443 : 80);
  const asked = own?.address ? await roundTripTo(own.address.replace(/^\[|\]$/g, ''), port) : undefined;
  if (asked !== undefined) return asked;
  const tcp = log.loads
    .flatMap(({ timing: t }) =>
      t && t.connectStart >= 0 ? [(t.sslStart >= 0 ? t.sslStart : t.connectEnd) - t.connectStart] : [],
    )
    .sort((a, b) => a - b);
  return tcp[Math.floor((tcp.length - 1) / 2)] ?? 1;
}
