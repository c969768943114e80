import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { deferredAttribute, lazyTechnique } from './heroFacts';

/** The hero is lazy in some technique: the browser may not fetch it when it first could. */
export const heroLazy: Check = {
  id: 'hero-lazy',
  concern: 'hero',
  question: 'Is the hero lazy-loaded?',
  examines:
    'loading=lazy, data attributes of script-driven loaders, backgrounds set by style, pictures built by scripts.',
  cannotSee: 'Without observations: which element is the LCP element (it is guessed from the source).',
  fixedWhen: 'The picture is in the markup with its own URL, without loading=lazy.',
  harms: ['slow'],
  standard: 'HTML, 2.5.7 and 4.8.3',
  change: 'Put the real URL in src or srcset, without loading=lazy; preload what only a stylesheet names.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    const technique = lazyTechnique(subject);
    if (technique === 'none' || !hero.url) return [];
    const name = fileName(hero.url);
    const attribute = hero.element ? deferredAttribute(hero.element) : undefined;
    const texts = {
      attribute: [
        'The hero has loading=lazy',
        'The main picture is marked as lazy, so browsers request it only after layout.',
      ],
      data: [
        `The hero waits for a script (its URL is in ${attribute ?? 'a data attribute'})`,
        'The main picture waits for a script: visitors see an empty frame although the picture could load first.',
      ],
      background: [
        'The hero is a CSS background',
        'The main picture is named only in a stylesheet, so browsers discover it late, after styles and layout.',
      ],
      script: [
        'The hero is built by a script',
        'The main picture is not in the markup: a script adds it after it has loaded and run.',
      ],
    } as const;
    const [title, plain] = texts[technique];
    const sheet =
      technique === 'background' ? page.styles.find((s) => s.references.some((r) => r.url === hero.url)) : undefined;
    const offset = sheet?.references.find((r) => r.url === hero.url)?.offset ?? 0;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: hero.url,
        element: technique === 'background' ? undefined : hero.element,
        style: sheet && { sheet, offset },
        path: hero.path,
        load: hero.load,
        title: `${title}: ${name}`,
        plain,
      }),
    ];
  },
};
