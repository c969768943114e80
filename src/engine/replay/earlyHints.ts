import type { ServerHttp2Stream } from 'node:http2';
import type { EarlyHints } from '../../core/capture/capture';

/** No timer is longer. */
const LONGEST_MS = 2 ** 31 - 1;

/** Sends Early Hints (RFC 8297) so many ms from now, unless the answer has begun by then; what no header may hold is left out. */
export function sendEarlyHints(stream: ServerHttp2Stream, { links, ms }: EarlyHints): void {
  // Field values are visible characters, spaces and tabs (RFC 9110, 5.5); a file may state anything.
  const link = links.filter((value) => /^[\t\x20-\x7e]+$/.test(value)).join(', ');
  if (link === '') return;
  const send = () => {
    if (!stream.destroyed && !stream.headersSent) stream.additionalHeaders({ ':status': 103, link });
  };
  setTimeout(send, Math.min(ms, LONGEST_MS)).unref();
}
