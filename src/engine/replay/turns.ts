import type { ServerHttp2Stream } from 'node:http2';

/** Urgency of a request (RFC 9218, 4.1): 0 is the most urgent; and whether it shares with others of its urgency. */
export interface Urgency {
  readonly level: number;
  readonly incremental: boolean;
}

/** Reads the Priority header field. */
export function urgencyOf(text: string | undefined): Urgency {
  const level = Number(/(?:^|[,\s])u=([0-7])/.exec(text ?? '')?.[1] ?? 3);
  return { level, incremental: /(?:^|[,\s])i(?:$|[,\s;])/.test(text ?? '') };
}

interface Open {
  readonly stream: ServerHttp2Stream;
  readonly body: Buffer;
  readonly urgency: Urgency;
  at: number;
}

const TURN_BYTES = 16_384 - 256;

/**
 * Sends the responses of one HTTP/2 connection in turns, with little kept unsent, so that a later and more urgent
 * one can still go first: evenly, or by urgency.
 */
export class Turns {
  private open: Open[] = [];
  private writing = 0;
  private next = 0;

  constructor(private readonly order: 'fair' | 'urgency') {}

  add(stream: ServerHttp2Stream, body: Buffer, urgency: Urgency): void {
    if (body.length === 0) return void stream.end();
    const open: Open = { stream, body, urgency, at: 0 };
    this.open.push(open);
    stream.once('close', () => {
      this.open = this.open.filter((o) => o !== open);
      this.pump();
    });
    this.pump();
  }

  private pump(): void {
    while (this.writing < 1 && this.open.length > 0) {
      const turn = this.choose();
      const chunk = turn.body.subarray(turn.at, turn.at + TURN_BYTES);
      turn.at += chunk.length;
      const last = turn.at >= turn.body.length;
      if (last) this.open = this.open.filter((o) => o !== turn);
      this.writing++;
      const done = () => {
        this.writing--;
        this.pump();
      };
      if (last) turn.stream.end(chunk, done);
      else turn.stream.write(chunk, done);
    }
  }

  private choose(): Open {
    let among = this.open;
    if (this.order === 'urgency') {
      const best = Math.min(...among.map((o) => o.urgency.level));
      among = among.filter((o) => o.urgency.level === best);
      // What is not incremental is sent whole, first come first served (RFC 9218, 10).
      const whole = among.find((o) => !o.urgency.incremental);
      if (whole) return whole;
    }
    return among[this.next++ % among.length] as Open;
  }
}
