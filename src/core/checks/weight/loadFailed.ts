import { fileName, hostOf, pathOf } from '../../capture/url';
import { finding, type Check } from '../finding';

/** Files that the page asks for and does not get. */
export const loadFailed: Check = {
  id: 'load-failed',
  concern: 'weight',
  question: 'Do all requests of the page succeed?',
  examines: 'Status of every load (RFC 9110, 15.5 and 15.6), and loads that ended without an answer.',
  cannotSee: 'Intermittent failures: this is one visit. Mixed content has its own findings.',
  fixedWhen: 'The URL responds with 200, or is no longer requested.',
  harms: ['broken', 'tidy'],
  standard: 'RFC 9110, 15.5 and 15.6',
  change: 'Restore the file, correct the URL, or remove the element.',
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      const noAnswer = load.status === 0 && load.error !== undefined && !load.mixedBlocked;
      // Requests that a page itself gives up are no fault.
      if (noAnswer && /abort|cancel/i.test(load.error ?? '')) return [];
      if (!noAnswer && load.status < 400) return [];
      // Browsers ask for it unasked; its absence is no fault of the page.
      if (/^\/favicon\.ico$/.test(pathOf(load.url)) && page.mentionsOf(load.url).length === 0) return [];
      const seen = load.kind === 'style' || load.kind === 'script' || load.kind === 'image' || load.kind === 'document';
      return [
        finding({
          check: this,
          subject,
          harm: seen ? 'broken' : 'tidy',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: { status: load.status, waitedMs: Math.round(load.endMs - load.startMs) },
          title: `${fileName(load.url)} of ${hostOf(load.url)} fails to load: ${noAnswer ? (load.error ?? 'no response') : load.status}`,
          plain: 'This file fails to load: what it should show or do is missing.',
        }),
      ];
    });
  },
};
