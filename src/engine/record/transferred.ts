/** What the browser told of the bytes of one answer. */
export interface ToldBytes {
  /** Headers and body in all, told at the end; 0 for what came from the cache. */
  readonly total: number;
  /** What had arrived when the headers were read: often more than they. */
  readonly atHeaders: number;
  /** Sum of the parts of the body as they arrived. */
  readonly parts: number;
  /** Of the header of that name; undefined where none is stated, or it cannot be trusted. */
  readonly contentLength?: number;
  /** Bytes after decoding. */
  readonly decoded: number;
}

/**
 * Bytes of headers and body as transferred. The headers and the start of a body may arrive in one piece, and are then
 * counted as headers by the browser: what is stated (RFC 9110, 8.6), else what the parts sum up to, decides.
 */
export function splitTransfer(told: ToldBytes): { headerBytes: number; bodyBytes: number } {
  const total = Math.max(0, told.total);
  if (total === 0) return { headerBytes: 0, bodyBytes: 0 };
  const stated = told.contentLength;
  if (told.decoded === 0 && told.parts === 0) return { headerBytes: total, bodyBytes: 0 };
  const believable = (n: number | undefined): n is number => n !== undefined && n > 0 && n <= total;
  const body = believable(stated)
    ? stated
    : believable(told.parts)
      ? told.parts
      : told.atHeaders < total
        ? total - told.atHeaders
        : // All in one piece, and nothing says where it begins: a head is seldom larger than this.
          Math.max(0, total - Math.min(500, Math.round(total / 2)));
  return { headerBytes: total - body, bodyBytes: body };
}
