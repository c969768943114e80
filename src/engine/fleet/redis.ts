import { Redis, type RedisOptions } from 'ioredis';
import { InputError } from '../../core/capture/errors';

/**
 * The address of a queue: `redis://` or `rediss://` (RFC 3986; as registered for Redis), with name and password if need be.
 * @throws InputError for anything else
 */
export function readQueueAddress(text: string, where: string): URL {
  const url = URL.canParse(text) ? new URL(text) : undefined;
  if (!url || !/^rediss?:$/.test(url.protocol) || !url.hostname)
    throw new InputError(
      `"${text.replace(/\/\/[^@/]*@/, '//…@')}" is not the address of a queue.`,
      where,
      'Write it as redis://HOST:PORT, or rediss:// for TLS.',
    );
  return url;
}

/** A connection to the queue. One that does not wait says at once that the queue is away. */
export function connectQueue(address: string, where: string, waits: boolean): Redis {
  const url = readQueueAddress(address, where);
  const options: RedisOptions = {
    maxRetriesPerRequest: waits ? null : 1,
    enableOfflineQueue: waits,
    connectTimeout: 5000,
    retryStrategy: (times) => Math.min(2000, 100 * times),
  };
  const redis = new Redis(url.href, options);
  // Each command fails by itself; without a listener the process would end.
  redis.on('error', () => undefined);
  return redis;
}
