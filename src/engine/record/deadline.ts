/** Something did not answer in time. */
export class DeadlineError extends Error {}

/**
 * Waits for something no longer than it may take, and not after a stop.
 * @throws DeadlineError; the reason of the signal; what the promise is rejected with
 */
export async function within<T>(ms: number, work: Promise<T>, signal?: AbortSignal, what = 'The page'): Promise<T> {
  // What fails after nobody waits any more is nobody's fault.
  work.catch(() => undefined);
  signal?.throwIfAborted();
  let timer: NodeJS.Timeout | undefined;
  let stop: (() => void) | undefined;
  const limit = new Promise<never>((_, fail) => {
    timer = setTimeout(() => fail(new DeadlineError(`${what} did not answer within ${Math.round(ms / 1000)} s`)), ms);
    stop = () => fail(signal?.reason instanceof Error ? signal.reason : new Error('stopped'));
    signal?.addEventListener('abort', stop, { once: true });
  });
  try {
    return await Promise.race([work, limit]);
  } finally {
    clearTimeout(timer);
    if (stop) signal?.removeEventListener('abort', stop);
  }
}
