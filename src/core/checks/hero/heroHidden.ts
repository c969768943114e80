import type { Box } from '../../capture/capture';
import { fileName } from '../../capture/url';
import type { SourceElement } from '../../source/document';
import { hiddenAtFirst } from '../../source/hidden';
import { finding, limitOf, type Check, type Subject } from '../finding';

/** The hero is there, and is shown later: kept invisible by style until a script or an animation ends. */
export const heroHidden: Check = {
  id: 'hero-hidden',
  concern: 'hero',
  question: 'Is the hero painted as soon as it has arrived?',
  examines:
    'Styles that hide the hero or its ancestors at first; time between its arrival and its paint where recorded.',
  cannotSee: 'Classes that scripts add and remove before the recording ends.',
  fixedWhen: 'A new recording paints the hero as soon as its file has arrived.',
  harms: ['slow'],
  standard: 'Largest Contentful Paint, 2.2; CSS Color 4, 3.2 (opacity); CSS Animations 1, 3',
  change: 'Show the content above the fold without script or animation; animate what comes later.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'waitMs',
      name: 'wait after arrival up to',
      unit: 'ms',
      value: 400,
      why: 'Decoding and the next frame take less time, even on a phone.',
    },
  ],
  examine(subject) {
    const { hero, page } = subject;
    const { lcpMs, fcpMs } = page.capture.measured;
    const there = Math.max(hero.load?.endMs ?? 0, fcpMs ?? 0);
    const waitedMs = hero.seen && lcpMs !== undefined ? Math.round(lcpMs - there) : undefined;
    const late = waitedMs !== undefined && waitedMs >= limitOf(this, subject, 'waitMs');
    const larger = largerPicture(subject);
    const largerCause = larger && hiddenAtFirst(page, larger.element);
    if (larger && largerCause)
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: larger.url,
          element: largerCause.by ? undefined : larger.element,
          style: largerCause.by && { sheet: largerCause.by.sheet, offset: largerCause.by.rule.start },
          path: larger.element.path,
          load: page.loadOf(larger.url),
          title: `The largest picture above the fold starts invisible (${largerCause.what}): ${fileName(larger.url)}`,
          plain:
            'The main picture fades in after it has arrived. Browsers do not count its paint as LCP, so the measured time is that of a smaller element.',
        }),
      ];
    const cause = hero.element && hiddenAtFirst(page, hero.element);
    // Only a style that hides is evidence: a late paint alone may come of a script that draws, or of a busy machine. It
    // counts when the paint was late, or when no paint was recorded that could disprove it.
    if (!cause || !(late || waitedMs === undefined)) return [];
    const { by } = cause;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: hero.url ?? hero.path ?? page.capture.page,
        element: by ? undefined : hero.element,
        style: by && { sheet: by.sheet, offset: by.rule.start },
        path: hero.path,
        load: hero.load,
        numbers: waitedMs === undefined ? {} : { waitedMs },
        title: `The hero is hidden${waitedMs === undefined ? '' : ` for ${waitedMs} ms after it has arrived`} (${cause.what})`,
        plain: 'The hero has arrived, but a style hides it until an animation or a script shows it.',
      }),
    ];
  },
};

/** A picture of the first screen, larger than the hero, that begins invisible: no paint of it is ever counted. */
function largerPicture({ hero, page }: Subject): { element: SourceElement; url: string } | undefined {
  const { screenWidth, screenHeight } = page.capture.conditions;
  const seen = page.capture.observations?.largestPaints.at(-1);
  if (!seen) return undefined;
  const inside = (b: Box) =>
    Math.max(0, Math.min(screenWidth, b.x + b.width) - Math.max(0, b.x)) *
    Math.max(0, Math.min(screenHeight, b.y + b.height) - Math.max(0, b.y));
  const own = seen.box ? inside(seen.box) : seen.size;
  const best = page.pictures
    .filter((p) => p.visible && p.url !== hero.url && inside(p.box) > own)
    .sort((a, b) => inside(b.box) - inside(a.box))[0];
  const element = best && page.elementAt(best.path);
  return best && element ? { element, url: best.url } : undefined;
}
