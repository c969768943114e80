import type { ServerHttp2Stream } from 'node:http2';
import type { Pause } from '../../core/capture/capture';
import { partsOf } from './parts';

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
  /** Where the body ends as far as the server has it. */
  until: number;
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

  add(stream: ServerHttp2Stream, body: Buffer, urgency: Urgency, pauses?: readonly Pause[]): void {
    if (body.length === 0) return void stream.end();
    const parts = partsOf(body.length, pauses);
    const open: Open = { stream, body, urgency, at: 0, until: 0 };
    const goOn = (end: number) => {
      if (stream.destroyed || end <= open.until) return;
      open.until = end;
      if (!this.open.includes(open)) this.open.push(open);
      this.pump();
    };
    parts.forEach(({ end }, i) => {
      const pauseMs = parts[i - 1]?.pauseMs;
      if (pauseMs !== undefined) setTimeout(() => goOn(end), pauseMs);
    });
    stream.once('close', () => {
      this.open = this.open.filter((o) => o !== open);
      this.pump();
    });
    goOn(parts[0]?.end ?? body.length);
  }

  private pump(): void {
    while (this.writing < 1 && this.open.length > 0) {
      const turn = this.choose();
      const chunk = turn.body.subarray(turn.at, Math.min(turn.until, turn.at + TURN_BYTES));
      turn.at += chunk.length;
      const last = turn.at >= turn.body.length;
      if (turn.at >= turn.until) this.open = this.open.filter((o) => o !== turn);
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
