import { isThirdParty } from '../../capture/site';
import { fileName, hostOf } from '../../capture/url';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';

/** A classic script in the head, or in front of the hero, without defer or async, or one with blocking=render (HTML, 4.12.1). */
export const scriptBlocking: Check = {
  id: 'script-blocking',
  concern: 'blocking',
  question: 'Which scripts block the first paint or the hero?',
  examines: 'Script elements in the head, also with blocking=render, and those in the body before the hero.',
  cannotSee: 'Whether the content above the fold needs the script: check before deferring.',
  fixedWhen:
    'The script has async, defer or type=module without blocking=render, or is at the end of the body, and a new recording paints before it.',
  harms: ['slow'],
  standard: 'HTML, 4.12.1 and 2.5.8',
  change:
    'Add defer, or async where order does not matter, and no blocking=render; or move the script to the end of the body.',
  examine(subject) {
    const { hero, page } = subject;
    // A hero that a script builds waits for that script, and for those in front of it.
    const builder = hero.load?.initiator?.type === 'script' ? hero.load.initiator.url : undefined;
    const heroAt =
      hero.element?.start ??
      page.scripts.find((s) => builder !== undefined && s.url !== undefined && page.loadOf(s.url)?.url === builder)
        ?.element.end ??
      -1;
    return page.scripts.flatMap((script) => {
      if ((script.mode !== 'sync' && !script.holdsPaint) || !script.url) return [];
      const { inHead, start } = script.element;
      if (!inHead && start >= heroAt) return [];
      const load = page.loadOf(script.url);
      if (!load || load.mixedBlocked) return [];
      const foreign = isThirdParty(page, load.url);
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: script.url,
          element: script.element,
          load,
          numbers: { bytes: load.bodyBytes, thirdParty: foreign ? 1 : 0 },
          title: `${fileName(script.url)} blocks ${script.holdsPaint ? 'the first paint by blocking=render' : `parsing ${inHead ? 'in the head' : 'before the hero'}`} (${bytesText(load.bodyBytes)}${foreign ? `, from ${hostOf(load.url)}` : ''})`,
          plain: `${inHead ? 'Nothing is' : 'The content below is not'} shown until ${foreign ? 'this third-party script has loaded and run' : 'this script has loaded and run'}.`,
        }),
      ];
    });
  },
};
