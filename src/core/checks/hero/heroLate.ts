import { transferBytes } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { type Check, finding, limitOf, ordinal } from '../finding';
import { bytesText } from '../texts';

/** The hero's place in the queue, with what went ahead of it. */
export const heroLate: Check = {
  id: 'hero-late',
  concern: 'hero',
  question: 'How many requests came before that of the hero?',
  examines:
    'The order of requests in the load record; which of the earlier ones are pictures that this visitor never sees.',
  cannotSee: 'Whether a picture that is hidden now is shown later.',
  fixedWhen: 'A new recording requests the hero among its first loads.',
  harms: ['slow'],
  standard: 'HTML, 13.2.9 (speculative parsing); Fetch, 4.5',
  change:
    'Request the hero earlier: put it in the markup, with fetchpriority=high or a preload, and lazy-load the pictures ahead of it.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'place',
      name: 'place in the queue up to',
      unit: 'count',
      value: 10,
      why: 'Browsers load about ten files at once over a new connection.',
    },
  ],
  examine(subject) {
    const { hero, page } = subject;
    if (!hero.load) return [];
    const loads = [...page.capture.loads].sort((a, b) => a.startMs - b.startMs || a.index - b.index);
    const place = loads.findIndex((l) => l.index === hero.load?.index) + 1;
    if (place <= limitOf(this, subject, 'place')) return [];
    const ahead = loads.slice(0, place - 1);
    const pictures = ahead.filter((l) => l.kind === 'image');
    const bytes = ahead.reduce((sum, l) => sum + transferBytes(l), 0);
    const hidden = new Set(page.pictures.filter((p) => !p.visible).map((p) => p.url));
    const hiddenCount = pictures.filter((l) => hidden.has(l.url)).length;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: hero.load.url,
        element: hero.element,
        path: hero.path,
        load: hero.load,
        numbers: {
          place,
          of: loads.length,
          picturesAhead: pictures.length,
          bytesAhead: bytes,
          hiddenAhead: hiddenCount,
        },
        title: `The hero was requested ${place}${ordinal(place)} of ${loads.length}: ${fileName(hero.load.url)}`,
        plain: `${pictures.length} pictures and ${bytesText(bytes)} were requested before the main picture${hiddenCount > 0 ? `, ${hiddenCount} of them in places this visitor never sees` : ''}.`,
      }),
    ];
  },
};
