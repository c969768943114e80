import type { SourceElement } from '../../source/document';
import type { Page } from '../../source/page';
import { declaredValue, lineage, type MatchedRule } from '../../source/styling';
import { finding, limitOf, type Check } from '../finding';

/** The hero is there, and is shown later: kept invisible by style until a script or an animation ends. */
export const heroHidden: Check = {
  id: 'hero-hidden',
  concern: 'hero',
  question: 'Is the hero shown as soon as it is there?',
  looksAt:
    'Styles that make the hero, or what it stands in, invisible at first; time between its arrival and its paint where recorded.',
  cannotSee: 'Classes that scripts add and take away before the recording ended.',
  fixedWhen: 'A new recording paints the hero as soon as its file is there.',
  harms: ['slow'],
  standard: 'Largest Contentful Paint, 2.2; CSS Color 4, 3.2 (opacity); CSS Animations 1, 3',
  change: 'Let the first screen be visible without script and animation; animate what comes later.',
  groupedBy: 'place',
  thresholds: [
    { id: 'waitMs', unit: 'ms', value: 400, why: 'Decoding and the next frame take less, also on a phone.' },
  ],
  examine(subject) {
    const { hero, page } = subject;
    const { lcpMs, fcpMs } = page.capture.measured;
    const there = Math.max(hero.load?.endMs ?? 0, fcpMs ?? 0);
    const waitedMs = hero.seen && lcpMs !== undefined ? Math.round(lcpMs - there) : undefined;
    const late = waitedMs !== undefined && waitedMs >= limitOf(this, subject, 'waitMs');
    const cause = hero.element && hiddenBy(page, hero.element);
    // A style that hides counts when the paint was late, or when no paint was recorded that could disprove it.
    if (!(late || (waitedMs === undefined && cause?.certain))) return [];
    const by = cause?.by;
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
        title: `The hero is kept invisible${waitedMs === undefined ? '' : ` for ${waitedMs} ms after it has come`}${cause ? ` (${cause.what})` : ''}`,
        plain: cause
          ? 'The main thing of the page is there, but a style hides it until an animation or a script shows it.'
          : 'The main thing of the page is there, but something shows it only later: most likely a script.',
      }),
    ];
  },
};

/** What makes an element invisible at first: itself or what it stands in. */
function hiddenBy(
  page: Page,
  element: SourceElement,
): { what: string; by?: MatchedRule; certain: boolean } | undefined {
  for (const e of lineage(page, element)) {
    const opacity = declaredValue(page, e, 'opacity');
    if (opacity && Number(opacity.value.replace(/!.*/, '')) === 0)
      return { what: `opacity: 0 on ${e.tag}`, by: opacity.by, certain: true };
    const visibility = declaredValue(page, e, 'visibility');
    if (visibility && /^hidden\b/.test(visibility.value))
      return { what: `visibility: hidden on ${e.tag}`, by: visibility.by, certain: true };
    const animation = declaredValue(page, e, 'animation') ?? declaredValue(page, e, 'animation-name');
    const frames =
      animation &&
      page.styles
        .flatMap((s) => page.rulesOf(s).named)
        .find((n) => n.kind === 'keyframes' && animation.value.split(/[\s,]+/).includes(n.name));
    if (frames && Number(frames.declarations.get('opacity') ?? 1) === 0)
      return { what: `the animation ${frames.name} begins invisible`, by: animation.by, certain: true };
  }
  return undefined;
}
