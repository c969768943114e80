import { watchJobs, watchPlans } from '../../../engine/jobs/watch';
import { route } from '../_answer';
import { jobsSeenBy, siteSeenBy } from './_seen';

/**
 * Jobs, and when plans were last saved, as server-sent events (HTML Standard, 9.2): a `jobs` and a `plans` event at once
 * and with each change.
 */
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
      const seesSiteOf = siteSeenBy(context);
      const unwatchPlans = watchPlans((plans) =>
        send(`event: plans\ndata: ${JSON.stringify({ plans: plans.filter((p) => seesSiteOf(p.siteId)) })}\n\n`),
      );
      // A comment now and then keeps middle boxes from hanging up.
      const alive = setInterval(() => send(': alive\n\n'), 15_000);
      stop = () => {
        unwatch();
        unwatchPlans();
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
