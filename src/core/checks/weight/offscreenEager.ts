import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';
import { transferBytes } from '../../capture/capture';
import { offscreenPictures } from './offscreen';

/** Pictures below the first screen that are fetched at once. */
export const offscreenEager: Check = {
  id: 'offscreen-eager',
  concern: 'weight',
  question: 'Are pictures below the fold loaded at once?',
  examines: 'The position of each img, and its loading attribute.',
  cannotSee: 'Pages captured without observations.',
  fixedWhen: 'The pictures below the fold have loading=lazy, and a new recording does not load them.',
  harms: ['slow'],
  standard: 'HTML, 2.5.7 (lazy loading)',
  change: 'Add loading=lazy to the pictures below the fold, never to the hero.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'pictures',
      name: 'pictures from',
      unit: 'count',
      value: 2,
      why: 'One picture more or less is not noticeable.',
    },
    { id: 'bytes', name: 'bytes from', unit: 'bytes', value: 20_000, why: 'About 80 ms on a busy mobile network.' },
  ],
  examine(subject) {
    const pictures = offscreenPictures(subject.page, subject.hero.url).filter((p) => p.shown);
    if (pictures.length < limitOf(this, subject, 'pictures')) return [];
    const bytes = pictures.reduce((sum, p) => sum + transferBytes(p.load), 0);
    if (bytes < limitOf(this, subject, 'bytes')) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: '*',
        element: pictures[0]?.element,
        load: pictures[0]?.load,
        files: pictures.map((p) => p.load),
        numbers: { pictures: pictures.length, bytes },
        title: `${pictures.length} pictures below the fold are not lazy-loaded (${bytesText(bytes)})`,
        plain: 'They compete with what the visitor waits for.',
      }),
    ];
  },
};
