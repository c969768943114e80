import { watchJobs } from '../../../engine/jobs/watch';
import { route } from '../_answer';
import { jobsSeenBy } from './_seen';

/** Jobs as server-sent events (HTML Standard, 9.2): one `jobs` event at once and with each change. */
export const GET = route((context) => {
  const encoder = new TextEncoder();
  let stop: () => void = () => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => {
        try {
          controller.enqueue(encoder.encode(text));
        } catch {
          stop();
        }
      };
      const sees = jobsSeenBy(context);
      const unwatch = watchJobs((jobs) =>
        send(`event: jobs\ndata: ${JSON.stringify({ jobs: jobs.filter(sees) })}\n\n`),
      );
      // A comment now and then keeps middle boxes from hanging up.
      const alive = setInterval(() => send(': alive\n\n'), 15_000);
      stop = () => {
        unwatch();
        clearInterval(alive);
      };
      context.request.signal.addEventListener('abort', () => stop());
      send('retry: 2000\n\n');
    },
    cancel: () => stop(),
  });
  return Promise.resolve(
    new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' } }),
  );
});
