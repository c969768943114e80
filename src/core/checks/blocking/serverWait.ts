import { finding, type Check } from '../finding';

/** Server time from which on it stands out before everything else, in ms. */
const LONG_MS = 600;

/** A page that is long in coming. */
export const serverWait: Check = {
  id: 'server-wait',
  concern: 'blocking',
  question: 'Does the server answer for the page itself without delay?',
  looksAt: `Time from the request of the page to its first byte, less one round trip of the recording; from ${LONG_MS} ms on.`,
  cannotSee: 'Why it takes so long, and whether it does each time: one answer is no average.',
  fixedWhen: 'Several new recordings have the first byte in less time.',
  examine(subject) {
    const { capture } = subject.page;
    const load = capture.loads[capture.documentIndex];
    if (!load || load.status !== 200) return [];
    const waitMs = Math.round(load.timings.waitMs - capture.conditions.rttMs);
    if (waitMs < LONG_MS) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: load.url,
        load,
        numbers: { waitedMs: waitMs },
        title: `The server took ${waitMs} ms before the first byte of the page`,
        plain: 'Nothing at all can begin before the server has answered.',
      }),
    ];
  },
};
