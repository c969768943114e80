import type { SourceElement } from './document';
import type { Page } from './page';
import { declaredValue, lineage, type MatchedRule } from './styling';

/** Why something is not to be seen at first. */
export interface HiddenCause {
  readonly what: string;
  /** The rule that does it; none for a style attribute. */
  readonly by?: MatchedRule;
  /** True when an animation shows it: such a paint is never counted as the largest. */
  readonly animated: boolean;
}

/** What makes an element invisible at first: a style on itself or on what it stands in, or an animation's first frame. */
export function hiddenAtFirst(page: Page, element: SourceElement): HiddenCause | undefined {
  for (const e of lineage(page, element)) {
    const opacity = declaredValue(page, e, 'opacity');
    if (opacity && Number(opacity.value) === 0)
      return { what: `opacity: 0 on ${e.tag}`, by: opacity.by, animated: animates(page, e) !== undefined };
    const visibility = declaredValue(page, e, 'visibility');
    if (visibility?.value === 'hidden')
      return { what: `visibility: hidden on ${e.tag}`, by: visibility.by, animated: false };
    const animation = animates(page, e);
    if (animation)
      return { what: `the animation ${animation.name} begins invisible`, by: animation.by, animated: true };
  }
  return undefined;
}

/**
 * The outermost element that styles alone keep from being drawn, with all in it, until a script changes something: no
 * display, visibility or opacity, and no animation that would show it; undefined for what is drawn (CSS Display 4, 2;
 * CSS Color 4, 3.2). Something visible inside what is merely not visible is drawn (CSS Display 4, 4).
 */
export function undrawnAround(page: Page, element: SourceElement): SourceElement | undefined {
  const around = lineage(page, element);
  const seen = around.map((e) => declaredValue(page, e, 'visibility')?.value).find((v) => v && v !== 'inherit');
  let found = seen === 'hidden' || seen === 'collapse' ? element : undefined;
  for (const e of around) {
    const display = declaredValue(page, e, 'display')?.value ?? (e.attributes.has('hidden') ? 'none' : '');
    const closed = e.tag === 'dialog' && !e.attributes.has('open') && !display;
    const clear = Number(declaredValue(page, e, 'opacity')?.value ?? 1) === 0 && !animates(page, e);
    if (display === 'none' || closed || clear) found = e;
  }
  return found;
}

/** The animation of an element whose first frame has no opacity. */
function animates(page: Page, e: SourceElement): { name: string; by?: MatchedRule } | undefined {
  const declared = declaredValue(page, e, 'animation-name') ?? declaredValue(page, e, 'animation');
  if (!declared) return undefined;
  const words = declared.value.split(/[\s,]+/);
  for (const sheet of page.styles)
    for (const n of page.rulesOf(sheet).named)
      if (n.kind === 'keyframes' && words.includes(n.name) && Number(n.declarations.get('opacity') ?? 1) === 0)
        return { name: n.name, by: declared.by };
  return undefined;
}
