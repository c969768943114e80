import type http from 'node:http';
import type { Pause } from '../../core/capture/capture';

/** A part of a body, and for how long after the first byte its server has no more, in ms; undefined for the last part. */
export interface BodyPart {
  readonly end: number;
  readonly pauseMs?: number;
}

/** The parts in which a server sends a body. */
export function partsOf(length: number, pauses: readonly Pause[] = []): BodyPart[] {
  return [...pauses.map(({ share, ms }) => ({ end: Math.round(share * length), pauseMs: ms })), { end: length }];
}

/** Sends a body over HTTP/1.1, with its pauses. */
export function sendParts(response: http.ServerResponse, body: Buffer, pauses?: readonly Pause[]): void {
  if (!pauses) return void response.end(body);
  // The first byte goes out now, if only that of the headers.
  response.flushHeaders();
  let at = 0;
  const parts = partsOf(body.length, pauses);
  const send = (i: number): void => {
    const part = parts[i];
    if (!part || response.destroyed) return;
    const chunk = body.subarray(at, part.end);
    at = Math.max(at, part.end);
    if (part.pauseMs === undefined) return void response.end(chunk);
    response.write(chunk);
    setTimeout(() => send(i + 1), part.pauseMs - (parts[i - 1]?.pauseMs ?? 0));
  };
  send(0);
}
