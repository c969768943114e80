import { fileName } from '../../capture/url';
import { placeOf } from '../../source/document';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** Pictures, fonts and source maps written into a page, stylesheet or script. */
export const inlinedData: Check = {
  id: 'inlined-data',
  concern: 'weight',
  question: 'Are large files inlined in other files?',
  examines: 'data: addresses (RFC 2397) in pages and stylesheets, and source maps written into scripts and styles.',
  cannotSee: 'Data that a script builds at run time.',
  fixedWhen: 'The inlined data is a file of its own, or is gone.',
  harms: ['slow'],
  standard: 'RFC 2397',
  change: 'Move the data to a file of its own, which can be cached and lazy-loaded; do not publish source maps.',
  thresholds: [
    {
      id: 'bytes',
      name: 'inlined bytes from',
      unit: 'bytes',
      value: 14_000,
      why: 'About what the first round trip of a new connection carries.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      if (load.status !== 200 || !['document', 'style', 'script'].includes(load.kind)) return [];
      const text = page.bodies.text(load);
      if (!text || text.length < limitOf(this, subject, 'bytes')) return [];
      const map = /[#@]\s*sourceMappingURL=data:[^\s'"]*/.exec(text);
      const inlined = load.kind === 'script' ? (map?.[0].length ?? 0) : dataBytes(text);
      if (inlined < limitOf(this, subject, 'bytes')) return [];
      const first = map ?? /data:[a-z]+\/[a-z0-9.+-]+[;,]/i.exec(text);
      const place = placeOf(text, first?.index ?? 0);
      const what = map ? 'source map' : 'data';
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: load.url,
          load,
          path: `${load.url}:${place.line}`,
          numbers: { bytes: inlined, line: place.line },
          title: `${load.kind === 'document' ? 'The page' : fileName(load.url)} contains ${bytesText(inlined)} of inlined ${what} (first in line ${place.line})`,
          plain: map
            ? 'Every visitor loads what only developers need.'
            : 'Inlined data cannot be cached, deferred or lazy-loaded, and delays what comes after it.',
        }),
      ];
    });
  },
};

/** Characters of all data: addresses in a text; each is one byte at least on its way. */
function dataBytes(text: string): number {
  let sum = 0;
  for (let at = text.indexOf('data:'); at >= 0; at = text.indexOf('data:', at + 5)) {
    let end = at;
    while (end < text.length && !/["'()\s<>]/.test(text[end] as string)) end++;
    if (end - at > 100) sum += end - at;
    at = Math.max(at, end - 5);
  }
  return sum;
}
