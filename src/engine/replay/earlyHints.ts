import type { ServerHttp2Stream } from 'node:http2';
import type { EarlyHints } from '../../core/capture/capture';

/** Sends Early Hints (RFC 8297) so many ms from now, unless the answer has begun by then. */
export function sendEarlyHints(stream: ServerHttp2Stream, { links, ms }: EarlyHints): void {
  setTimeout(() => {
    if (stream.destroyed || stream.headersSent) return;
    stream.additionalHeaders({ ':status': 103, link: links.join(', ') });
  }, ms);
}
