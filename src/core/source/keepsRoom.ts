import type { SourceElement } from './document';
import type { Page } from './page';
import { declaredValue } from './styling';

/** True when attributes or styles keep room for a picture before it has come. */
export function keepsRoom(page: Page, element: SourceElement): boolean {
  const { attributes } = element;
  if (isDimension(attributes.get('width')) && isDimension(attributes.get('height'))) return true;
  const height = declaredValue(page, element, 'height')?.value ?? 'auto';
  if (!/^(auto|100%|inherit|unset|revert|initial|max-content|min-content|fit-content)/.test(height)) return true;
  const ratio = declaredValue(page, element, 'aspect-ratio')?.value ?? 'auto';
  if (ratio !== 'auto') return true;
  // Taken out of the flow it moves nothing; at full height of its box the box keeps the room.
  const position = declaredValue(page, element, 'position')?.value ?? '';
  return (
    /^(absolute|fixed)/.test(position) ||
    (height === '100%' && declaredValue(page, element, 'object-fit') !== undefined)
  );
}

/** A length in pixels; percentages tell no shape (HTML, 2.3.4.4 and 15.4.3). */
const isDimension = (value: string | undefined) =>
  /^\s*\d+(\.\d+)?\s*(px)?\s*$/i.test(value ?? '') && parseFloat(value ?? '') > 0;
