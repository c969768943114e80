import { bytesText, finding, type Check } from '../finding';

const LARGE_BYTES = 300_000;
const MANY_ELEMENTS = 5_000;

/** A document that is long to fetch, parse and lay out. */
export const htmlLarge: Check = {
  id: 'html-large',
  concern: 'weight',
  question: 'Is the document itself of a sensible size?',
  looksAt: `Bytes of the document after unpacking (from ${LARGE_BYTES / 1000} kB) and its elements (from ${MANY_ELEMENTS}).`,
  cannotSee: 'Elements that scripts add or take away.',
  fixedWhen: 'A new recording has a document below both limits.',
  examine(subject) {
    const { page } = subject;
    const load = page.capture.loads[page.capture.documentIndex];
    const elements = page.document?.elements.length ?? 0;
    if (!load || (load.decodedBytes < LARGE_BYTES && elements < MANY_ELEMENTS)) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: load.url,
        load,
        numbers: { bytes: load.decodedBytes, elements },
        title: `The document is ${bytesText(load.decodedBytes)} of HTML with ${elements} elements`,
        plain: 'The page itself is so long that reading it and laying it out takes time of its own.',
      }),
    ];
  },
};
