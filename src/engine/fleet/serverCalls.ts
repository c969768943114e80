import { setTimeout as pause } from 'node:timers/promises';
import { fetch } from 'undici';
import { InputError } from '../../core/capture/errors';
import type { RecorderFacts } from '../../core/fleet/recorder';

/** Longest wait for an answer, and between two tries, in ms. */
const ANSWER_MS = 60_000;
const LONGEST_PAUSE_MS = 5000;

/** What a server tells a recorder that gives a sign of life. */
export interface BeatAnswer {
  readonly queue: string;
  readonly version: string;
}

/** The API of the server, as a recorder uses it. */
export class ServerCalls {
  private readonly base: string;

  /** @throws InputError for what is no web address */
  constructor(
    server: string,
    private readonly token: string,
    private readonly name: string,
  ) {
    if (!URL.canParse(server) || !/^https?:$/.test(new URL(server).protocol))
      throw new InputError(
        `"${server}" is not the address of a server.`,
        '--server',
        'Write it with https:// in front.',
      );
    this.base = `${server.replace(/\/+$/, '')}/api/recorders`;
  }

  /** Gives a sign of life. @throws InputError where the server does not know the token, or cannot be reached */
  async beat(facts: RecorderFacts): Promise<BeatAnswer> {
    const answer = await this.call('POST', 'beat', JSON.stringify({ facts })).catch((error: unknown) => {
      throw new InputError(
        `The server cannot be reached: ${reasonOf(error)}.`,
        this.base,
        'Is it running, and is the address right?',
      );
    });
    if (answer.status === 401 || answer.status === 403)
      throw new InputError(
        'The server does not take this token.',
        '--token-file',
        'Make one on the server: keen-lens token NAME --scope record',
      );
    if (!answer.ok) throw new InputError(`The server answered ${answer.status}.`, this.base, 'See its log.');
    return (await answer.json()) as BeatAnswer;
  }

  /**
   * What is to be done; undefined when nobody waits for it any more. Tries until the server answers.
   * @param path `work/ID` for a recording, `tasks/ID` for a probe or a proof
   */
  async take(path: string, signal: AbortSignal): Promise<Buffer | undefined> {
    const answer = await this.surely('GET', path, undefined, signal);
    return answer.ok ? Buffer.from(await answer.arrayBuffer()) : undefined;
  }

  /** Hands in what was made. Returns once the server has it, or does not want it any more. */
  async handIn(path: string, made: Uint8Array, signal: AbortSignal): Promise<void> {
    await this.surely('PUT', path, made, signal);
  }

  /** Says that something cannot be done, and why. */
  async giveUp(path: string, fault: string, signal: AbortSignal): Promise<void> {
    await this.surely('POST', path, JSON.stringify({ fault }), signal);
  }

  /** Asks again while the server is away or overloaded. @throws InputError for an answer that will not change */
  private async surely(
    method: string,
    path: string,
    body: string | Uint8Array | undefined,
    signal: AbortSignal,
  ): Promise<Awaited<ReturnType<typeof fetch>>> {
    for (let waitMs = 200; ; waitMs = Math.min(LONGEST_PAUSE_MS, 2 * waitMs)) {
      const answer = await this.call(method, path, body, signal).catch(() => undefined);
      if (answer && (answer.ok || answer.status === 410)) return answer;
      if (answer && answer.status < 500 && answer.status !== 429)
        throw new InputError(`The server refused it: ${answer.status}.`, `${this.base}/${path}`, 'See its log.');
      await pause(waitMs, undefined, { signal });
    }
  }

  private call(method: string, path: string, body?: string | Uint8Array, signal?: AbortSignal) {
    const limit = AbortSignal.timeout(ANSWER_MS);
    return fetch(`${this.base}/${path}`, {
      method,
      body,
      headers: {
        authorization: `Bearer ${this.token}`,
        'content-type': typeof body === 'string' ? 'application/json' : 'application/octet-stream',
        'x-recorder': encodeURIComponent(this.name),
      },
      signal: signal ? AbortSignal.any([signal, limit]) : limit,
    });
  }
}

function reasonOf(error: unknown): string {
  const cause = error instanceof Error && error.cause instanceof Error ? error.cause : error;
  return cause instanceof Error ? cause.message || (cause as NodeJS.ErrnoException).code || cause.name : String(cause);
}
