import { finding, limitOf, type Check } from '../finding';

/** A page that its server takes long to send. */
export const serverWait: Check = {
  id: 'server-wait',
  concern: 'blocking',
  question: 'Does the server respond quickly for the page itself?',
  examines:
    'Time from the request of the page to its first byte, less one round trip of the recording; pauses of the server while it sends the page.',
  cannotSee: 'The reason, and whether it takes as long each time: one response is no average.',
  fixedWhen: 'Several new recordings get the first byte, and the whole page, in less time.',
  harms: ['slow'],
  standard: 'RFC 9110, 9; Server Timing',
  change: 'Cache the page on the server or a CDN; find out what it waits for.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'waitMs',
      name: 'wait from',
      unit: 'ms',
      value: 600,
      why: 'More than half a second before anything else can start.',
    },
  ],
  examine(subject) {
    const { capture } = subject.page;
    const load = capture.loads[capture.documentIndex];
    if (!load || load.status !== 200) return [];
    const pause = load.pauses?.at(-1);
    const waitMs = Math.round(load.timings.waitMs - capture.conditions.rttMs + (pause?.ms ?? 0));
    if (waitMs < limitOf(this, subject, 'waitMs')) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: load.url,
        load,
        numbers: { waitedMs: waitMs },
        title: pause
          ? `The server took ${waitMs} ms to send the page: it paused after ${Math.round(100 * pause.share)} % of it`
          : `The server took ${waitMs} ms to respond with the page`,
        plain: pause
          ? 'What the server sends late cannot be shown or requested sooner.'
          : 'Nothing can start before the server responds.',
      }),
    ];
  },
};
