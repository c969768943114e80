/**
 * Recorders without a browser, in a process of their own: `recorders.ts COUNT MS QUEUE SERVER TOKEN LOCK_MS`. Each takes
 * recordings from the queue, waits a fixed time, and hands in a made-up page over the API.
 */
import { setTimeout as pause } from 'node:timers/promises';
import { madeHar, madeRecorder } from '../../test/fixtures/fleet';

const [count, ms, queue = '', server = '', token = '', lockMs] = process.argv.slice(2);
await Promise.all(
  Array.from({ length: Number(count) }, (_, i) =>
    madeRecorder(
      { queue, server, token, name: `made-${process.pid}-${i + 1}`, ...(lockMs && { lockMs: Number(lockMs) }) },
      async (work) => {
        await pause(Number(ms));
        return madeHar(work.url);
      },
    ),
  ),
);
process.send?.('ready');
