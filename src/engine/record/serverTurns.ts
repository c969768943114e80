import tls from 'node:tls';
import { frame, FRAME, FrameReader, PREFACE, requestHeaders, settings, windowUpdate, type Frame } from './http2Frames';

/** A file of a host, as the page has loaded it. */
export interface KnownFile {
  readonly path: string;
  /** As it travels. */
  readonly bytes: number;
}

/** Where a host is really reached. */
export interface Place {
  readonly host: string;
  readonly address: string;
  readonly port: number;
  readonly acceptAnyCertificate: boolean;
}

/** What a connection may send unasked (RFC 9113, 6.9.2). */
const FIRST_WINDOW = 65_535;
const STEP = 16_384;
const LEAST_URGENT = 28_000;
/** What a server had handed over before it heard of the urgent file comes first all the same. */
const HANDED_OVER = 20_000;
const TIMEOUT_MS = 6000;
/** Quiet for so long, the server has sent what it may. */
const QUIET_MS = 250;

/**
 * Asks an HTTP/2 server which of two answers it sends first when it cannot send both: large files as "can wait" first,
 * until flow control stops it, then one as "urgent" (RFC 9218; the weights of RFC 7540 say the same to older servers).
 * Then it may send on in small steps, and the order of what comes tells.
 * @returns true when the urgent one overtakes; undefined when the host's files are too small to tell, or it fails.
 */
export function servesByUrgency(place: Place, files: readonly KnownFile[]): Promise<boolean | undefined> {
  const bySize = [...files].sort((a, b) => b.bytes - a.bytes);
  const [urgent, ...rest] = bySize;
  const waiting = rest.slice(0, 16);
  const inAll = waiting.reduce((sum, f) => sum + f.bytes, 0);
  if (!urgent || urgent.bytes < LEAST_URGENT || inAll < FIRST_WINDOW + 1.5 * HANDED_OVER)
    return Promise.resolve(undefined);
  // As long as others have something left to be sent in between.
  const enough = 0.9 * Math.min(urgent.bytes, inAll - FIRST_WINDOW);
  return new Promise((answer) => {
    const socket = tls.connect({
      host: place.address,
      port: place.port,
      servername: place.host,
      ALPNProtocols: ['h2'],
      rejectUnauthorized: !place.acceptAnyCertificate,
    });
    const end = (value: boolean | undefined) => {
      clearTimeout(limit);
      clearTimeout(quiet);
      socket.destroy();
      answer(value);
    };
    const limit = setTimeout(() => end(undefined), TIMEOUT_MS);
    let quiet: NodeJS.Timeout | undefined;
    const afterQuiet = (then: () => void) => {
      clearTimeout(quiet);
      quiet = setTimeout(then, QUIET_MS);
    };
    const urgentStream = 1 + 2 * waiting.length;
    let stage: 'filling' | 'asked' | 'released' = 'filling';
    let own = 0;
    let behind = 0;
    const release = () => {
      stage = 'released';
      socket.write(windowUpdate(0, STEP));
    };
    const onFrame = (f: Frame) => {
      if (f.type === FRAME.goAway || (f.type === FRAME.resetStream && f.stream === urgentStream)) return end(undefined);
      if (f.type === FRAME.settings && (f.flags & 1) === 0) socket.write(frame(FRAME.settings, 1, 0));
      if (f.type === FRAME.ping && (f.flags & 1) === 0) socket.write(frame(FRAME.ping, 1, 0, f.payload));
      if (stage === 'filling') {
        afterQuiet(() => {
          stage = 'asked';
          socket.write(requestHeaders(urgentStream, place.host, urgent.path, 'u=0', 256));
          afterQuiet(release);
        });
      } else if (stage === 'asked') afterQuiet(release);
      else if (f.type === FRAME.data) {
        if (f.stream === urgentStream) own += f.payload.length;
        else behind += f.payload.length;
        const over = f.stream === urgentStream && (f.flags & 1) === 1;
        if (own >= enough) return end(behind < Math.max(0.5 * own, HANDED_OVER));
        if (over) return end(undefined);
        if (f.payload.length > 0) socket.write(windowUpdate(0, f.payload.length));
      }
    };
    const reader = new FrameReader(onFrame);
    socket.on('secureConnect', () => {
      if (socket.alpnProtocol !== 'h2') return end(undefined);
      socket.write(PREFACE);
      // Streams may send much; the connection as a whole may not.
      socket.write(settings({ enablePush: 0, initialWindow: 4_000_000 }));
      waiting.forEach((f, i) => socket.write(requestHeaders(1 + 2 * i, place.host, f.path, 'u=6, i', 1)));
    });
    socket.on('data', (chunk: Buffer) => reader.read(chunk));
    socket.on('error', () => end(undefined));
    socket.on('close', () => end(undefined));
  });
}
