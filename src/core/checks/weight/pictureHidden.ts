import { transferBytes } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';
import { offscreenPictures } from './offscreen';

/** Pictures that are fetched and never shown to this visitor. */
export const pictureHidden: Check = {
  id: 'picture-hidden',
  concern: 'weight',
  question: 'Are pictures loaded that this visitor never sees?',
  examines: 'Pictures in the markup without a layout box: in closed menus, or hidden on this screen.',
  cannotSee: 'What opens at a click; pages captured without observations.',
  fixedWhen: 'A new recording does not load them.',
  harms: ['slow'],
  standard: 'HTML, 2.5.7 (lazy loading) and 4.8.2 (picture)',
  change: 'Add loading=lazy, or use picture and media instead of hiding by CSS.',
  groupedBy: 'place',
  thresholds: [{ id: 'bytes', name: 'bytes from', unit: 'bytes', value: 10_000, why: 'Less is not noticeable.' }],
  examine(subject) {
    const hidden = offscreenPictures(subject.page, subject.hero.url).filter((p) => !p.shown);
    const bytes = hidden.reduce((sum, p) => sum + transferBytes(p.load), 0);
    const [first] = hidden;
    if (!first || bytes < limitOf(this, subject, 'bytes')) return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: '*',
        element: first.element,
        load: first.load,
        files: hidden.map((p) => p.load),
        numbers: { pictures: hidden.length, bytes },
        title: `${hidden.length === 1 ? `${fileName(first.load.url)} is` : `${hidden.length} pictures are`} loaded but not shown to this visitor (${bytesText(bytes)})`,
        plain: 'They are hidden on this screen, for example in closed menus, and compete with what is shown.',
      }),
    ];
  },
};
