import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** A document that is long to fetch, parse and lay out. */
export const htmlLarge: Check = {
  id: 'html-large',
  concern: 'weight',
  question: 'Is the HTML document small enough?',
  examines: 'Bytes of the document after decoding, and its elements.',
  cannotSee: 'Elements that scripts add or remove.',
  fixedWhen: 'A new recording has a document below both limits.',
  harms: ['slow'],
  standard: 'Best practice (no standard)',
  change: 'Split the list into pages, remove repeated markup, load the end later.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of the document from',
      unit: 'bytes',
      value: 300_000,
      why: 'Several times the size of an ordinary document.',
    },
    { id: 'elements', name: 'elements from', unit: 'count', value: 5_000, why: 'Style and layout time grow with it.' },
  ],
  examine(subject) {
    const { page } = subject;
    const load = page.capture.loads[page.capture.documentIndex];
    const elements = page.document?.elements.length ?? 0;
    if (!load || (load.decodedBytes < limitOf(this, subject, 'bytes') && elements < limitOf(this, subject, 'elements')))
      return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: load.url,
        load,
        numbers: { bytes: load.decodedBytes, elements },
        title: `The document is ${bytesText(load.decodedBytes)} of HTML with ${elements} elements`,
        plain: 'The page is so long that parsing and layout take noticeable time.',
      }),
    ];
  },
};
