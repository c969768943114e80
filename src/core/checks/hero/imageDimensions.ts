import { keepsRoom } from '../../source/keepsRoom';
import type { SourceElement } from '../../source/document';
import { fileName } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';

/** Pictures of the first screen for which no room is kept: what stands below them jumps when they come. */
export const imageDimensions: Check = {
  id: 'image-dimensions',
  concern: 'hero',
  question: 'Do pictures above the fold have dimensions?',
  examines: 'width and height attributes, and width, height and aspect-ratio in the styles that apply.',
  cannotSee: 'Space that the layout reserves in other ways, such as a fixed height of the parent.',
  fixedWhen: 'The img has width and height, and a new recording measures no layout shift.',
  harms: ['tidy', 'slow'],
  standard: 'HTML, 4.8.3 and 15.4.3 (width, height); Layout Instability, 2.2',
  change: 'Set width and height of the file on the img; styles may still scale it with height: auto.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'shift',
      name: 'layout shift (CLS) below',
      unit: 'share',
      value: 0.1,
      why: 'From this value on, a layout shift needs improvement.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    const { screenHeight } = page.capture.conditions;
    const shift = page.capture.measured.cls ?? 0;
    const done = new Set<SourceElement>();
    return page.pictures.flatMap((p) => {
      if (p.use !== 'img' || !p.visible || p.box.y >= screenHeight || p.box.height < 40) return [];
      const element =
        page.elementAt(p.path, 'img') ?? page.mentionsOf(p.url).find((m) => m.element.tag === 'img')?.element;
      if (!element || done.has(element) || keepsRoom(page, element)) return [];
      done.add(element);
      return [
        finding({
          check: this,
          subject,
          harm: shift >= limitOf(this, subject, 'shift') ? 'slow' : 'tidy',
          target: p.url,
          element,
          load: page.loadOf(p.url),
          numbers: { shift, drawnWidth: p.box.width, drawnHeight: p.box.height },
          title: `No dimensions set for ${fileName(p.url)}: the img has no width and height`,
          plain: 'When the picture arrives, the content below it jumps down (layout shift).',
        }),
      ];
    });
  },
};
