import { transferBytes, type Load } from '../../capture/capture';
import type { SourceElement } from '../../source/document';
import { lineage } from '../../source/styling';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

const NAMED = /slide|carousel|rotat|stage|reel/i;

/** The hero is one slide of several, and the others are fetched along with it. */
export const heroSlides: Check = {
  id: 'hero-slides',
  concern: 'hero',
  question: 'Do hidden slides compete with the hero?',
  examines: 'Siblings of the hero’s slide that contain pictures, and whether those loaded before its paint.',
  cannotSee: 'How many visitors see the second slide.',
  fixedWhen: 'A new recording loads the other slides after the hero, or not at all.',
  harms: ['slow'],
  standard: 'HTML, 2.5.7 (lazy loading)',
  change: 'Name only the first slide in the markup, or lazy-load the others.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    const { tree } = page;
    if (!hero.element || !tree) return [];
    for (const e of lineage(page, hero.element).slice(0, 5)) {
      const parent = tree.parentOf(e);
      if (!parent || parent.tag === 'body' || parent.tag === 'main') break;
      const others = tree.siblingsOf(e).filter((s) => s !== e && s.tag === e.tag);
      const name = `${parent.attributes.get('class') ?? ''} ${parent.attributes.get('id') ?? ''} ${e.attributes.get('class') ?? ''}`;
      if (others.length === 0 || !NAMED.test(name)) continue;
      const fetched = others.flatMap((o) => picturesIn(o)).filter((l) => l !== hero.load && early(l));
      const loads = [...new Set(fetched)];
      if (loads.length === 0) return [];
      const bytes = loads.reduce((sum, l) => sum + transferBytes(l), 0);
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: hero.url ?? page.capture.page,
          element: parent,
          load: hero.load,
          files: loads,
          numbers: { slides: others.length + 1, pictures: loads.length, bytes },
          title: `The hero is one of ${others.length + 1} slides; ${loads.length} ${loads.length === 1 ? 'picture' : 'pictures'} of the others loaded with it (${bytesText(bytes)})`,
          plain: 'Pictures that are shown seconds later, if ever, compete with the hero for bandwidth.',
        }),
      ];
    }
    return [];

    function picturesIn(slide: SourceElement): Load[] {
      return page.mentions
        .filter((m) => m.kind === 'image' && m.element.start >= slide.start && m.element.start < slide.end)
        .flatMap((m) => {
          const load = page.loadOf(m.url);
          return load?.kind === 'image' ? [load] : [];
        });
    }

    function early(load: Load): boolean {
      return load.startMs < (hero.load?.endMs ?? page.capture.measured.lcpMs ?? Infinity);
    }
  },
};
