import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { deferredAttribute, heroGuise } from './heroFacts';

/** The hero is lazy in some guise: the browser may not fetch it when it first could. */
export const heroLazy: Check = {
  id: 'hero-lazy',
  concern: 'hero',
  question: 'Is the main picture kept back although it is what the visitor waits for?',
  looksAt:
    'loading=lazy, data attributes of script-driven loaders, backgrounds set by style, pictures built by scripts.',
  cannotSee: 'Without observations: which element is the largest painted (it is guessed from the source).',
  fixedWhen: 'The picture stands in the markup with its own address, without loading=lazy.',
  harms: ['slow'],
  standard: 'HTML, 2.5.7 and 4.8.3',
  change: 'Write the real address in src or srcset, without loading=lazy; preload what only a stylesheet names.',
  groupedBy: 'place',
  examine(subject) {
    const { hero, page } = subject;
    const guise = heroGuise(subject);
    if (guise === 'none' || !hero.url) return [];
    const name = fileName(hero.url);
    const attribute = hero.element ? deferredAttribute(hero.element) : undefined;
    const texts = {
      attribute: [
        'The hero has loading=lazy',
        'The main picture is marked as "can wait", so browsers ask for it only after the page is laid out.',
      ],
      data: [
        `The hero waits for a script (real address in ${attribute ?? 'a data attribute'})`,
        'The main picture is kept back until a script has run: visitors look at an empty frame although it could come first.',
      ],
      background: [
        'The hero is a CSS background',
        'The main picture is named only in a stylesheet, so browsers learn of it late, after styles and layout.',
      ],
      script: [
        'The hero is built by a script',
        'The main picture does not stand in the page at all: a script puts it there after it has loaded and run.',
      ],
    } as const;
    const [title, plain] = texts[guise];
    const sheet =
      guise === 'background' ? page.styles.find((s) => s.references.some((r) => r.url === hero.url)) : undefined;
    const offset = sheet?.references.find((r) => r.url === hero.url)?.offset ?? 0;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: hero.url,
        element: guise === 'background' ? undefined : hero.element,
        style: sheet && { sheet, offset },
        path: hero.path,
        load: hero.load,
        title: `${title}: ${name}`,
        plain,
      }),
    ];
  },
};
