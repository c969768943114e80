import { fileName } from '../../capture/url';
import { preloads } from '../../source/linkHeader';
import { finding, type Check } from '../finding';

/** A hero in the markup that nothing marks as urgent. */
export const heroPriority: Check = {
  id: 'hero-priority',
  concern: 'hero',
  question: 'Does the hero have a high priority?',
  examines:
    'fetchpriority on the hero and on a preload of it, in the head or in a Link header; the priority of its first request.',
  cannotSee: 'Priorities that a server sets itself.',
  fixedWhen: 'A new recording requests the hero with high priority.',
  harms: ['slow'],
  standard: 'HTML, 2.5.9 (fetchpriority)',
  change: 'Put fetchpriority=high on the img, or on a preload of what a stylesheet or poster names.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    if (!hero.url || !hero.element || hero.kind !== 'image') return [];
    const { url } = hero;
    const marked =
      page.mentionsOf(url).some((m) => m.element.attributes.get('fetchpriority')?.toLowerCase() === 'high') ||
      page.headerLinks.some((link) => link.fetchpriority === 'high' && preloads(link, url));
    const priority = hero.load?.priority;
    if (marked || priority === 'High' || priority === 'VeryHigh') return [];
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: hero.url,
        element: hero.element,
        load: hero.load,
        title: `The hero is requested with ${priority ? priority.toLowerCase() : 'default'} priority: ${fileName(hero.url)}`,
        plain: 'The main picture queues with all the others, since nothing gives it a higher priority.',
      }),
    ];
  },
};
