/** As much of HTTP/2 framing (RFC 9113, 4 and 6) and header compression (RFC 7541) as asking a few files takes. */

export const FRAME = { data: 0, headers: 1, resetStream: 3, settings: 4, ping: 6, goAway: 7, windowUpdate: 8 } as const;

export const PREFACE = Buffer.from('PRI * HTTP/2.0\r\n\r\nSM\r\n\r\n');

export interface Frame {
  readonly type: number;
  readonly flags: number;
  readonly stream: number;
  readonly payload: Buffer;
}

/** A frame as bytes (4.1). */
export function frame(type: number, flags: number, stream: number, payload: Buffer = Buffer.alloc(0)): Buffer {
  const head = Buffer.alloc(9);
  head.writeUIntBE(payload.length, 0, 3);
  head.writeUInt8(type, 3);
  head.writeUInt8(flags, 4);
  head.writeUInt32BE(stream, 5);
  return Buffer.concat([head, payload]);
}

/** SETTINGS (6.5). */
export function settings(values: { readonly enablePush: number; readonly initialWindow: number }): Buffer {
  const payload = Buffer.alloc(12);
  payload.writeUInt16BE(2, 0);
  payload.writeUInt32BE(values.enablePush, 2);
  payload.writeUInt16BE(4, 6);
  payload.writeUInt32BE(values.initialWindow, 8);
  return frame(FRAME.settings, 0, 0, payload);
}

/** WINDOW_UPDATE (6.9). */
export function windowUpdate(stream: number, bytes: number): Buffer {
  const payload = Buffer.alloc(4);
  payload.writeUInt32BE(bytes);
  return frame(FRAME.windowUpdate, 0, stream, payload);
}

/** HEADERS of a GET without a body, with a weight (6.2, RFC 7540, 5.3) and the Priority field (RFC 9218, 5). */
export function requestHeaders(stream: number, host: string, path: string, priority: string, weight: number): Buffer {
  const first = Buffer.alloc(5);
  first.writeUInt8(weight - 1, 4);
  const block = Buffer.concat([
    // :method GET and :scheme https are in the static table (RFC 7541, appendix A).
    Buffer.from([0x82, 0x87]),
    literal(':authority', host),
    literal(':path', path),
    literal('accept-encoding', 'gzip, br'),
    literal('priority', priority),
  ]);
  const END_STREAM_HEADERS_PRIORITY = 0x01 | 0x04 | 0x20;
  return frame(FRAME.headers, END_STREAM_HEADERS_PRIORITY, stream, Buffer.concat([first, block]));
}

/** A literal header field without indexing, new name, no Huffman coding (RFC 7541, 6.2.2 and 5.2). */
function literal(name: string, value: string): Buffer {
  return Buffer.concat([Buffer.from([0]), text(name), text(value)]);
}

function text(value: string): Buffer {
  const bytes = Buffer.from(value);
  return Buffer.concat([integer(bytes.length), bytes]);
}

/** An integer with a prefix of seven bits (RFC 7541, 5.1). */
function integer(value: number): Buffer {
  if (value < 127) return Buffer.from([value]);
  const out = [127];
  let rest = value - 127;
  for (; rest >= 128; rest = Math.floor(rest / 128)) out.push((rest % 128) + 128);
  out.push(rest);
  return Buffer.from(out);
}

/** Cuts a stream of bytes into frames; longer ones than HTTP/2 allows unasked end the reading. */
export class FrameReader {
  private rest: Buffer = Buffer.alloc(0);

  constructor(private readonly onFrame: (frame: Frame) => void) {}

  read(chunk: Buffer): void {
    this.rest = this.rest.length === 0 ? chunk : Buffer.concat([this.rest, chunk]);
    while (this.rest.length >= 9) {
      const length = this.rest.readUIntBE(0, 3);
      if (this.rest.length < 9 + length) return;
      const read: Frame = {
        type: this.rest.readUInt8(3),
        flags: this.rest.readUInt8(4),
        stream: this.rest.readUInt32BE(5) & 0x7fffffff,
        payload: this.rest.subarray(9, 9 + length),
      };
      this.rest = this.rest.subarray(9 + length);
      this.onFrame(read);
    }
  }
}
