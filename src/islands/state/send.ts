import { ask } from './api';

/** Sends JSON to the API. @throws RequestError */
export const send = <T>(path: string, method: 'POST' | 'PUT' | 'DELETE', value?: unknown): Promise<T> =>
  ask<T>(path, {
    method,
    ...(value !== undefined && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(value) }),
  });
