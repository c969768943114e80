import { log } from '../../engine/log';
import { store } from '../../engine/services/openedStore';
import { seedDemo } from '../../engine/services/seedDemo';
import { route } from './_answer';

/** Puts the demo in; answers with one JSON line for each step and a last one with the result. */
export const POST = route(async () => {
  const db = await store();
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    async start(controller) {
      const say = (value: unknown) => controller.enqueue(encoder.encode(JSON.stringify(value) + '\n'));
      try {
        say({ done: await seedDemo(db, (step) => say({ step })) });
      } catch (error) {
        log.error({ err: error }, 'demo failed');
        say({
          error: {
            what: 'The demo could not be put in.',
            where: 'demo/captures',
            next: 'The log of the server says more.',
          },
        });
      }
      controller.close();
    },
  });
  return new Response(stream, { headers: { 'content-type': 'application/x-ndjson' } });
});
