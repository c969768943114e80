import { fileName } from '../../capture/url';
import { mediaMatches, screenOf } from '../../source/media';
import { finding, type Check } from '../finding';
import { bytesText } from '../texts';
import { linksStylesheet } from '../../source/linkRel';

/** Stylesheets in the body: what stands after them is not shown until they have come. */
export const styleInBody: Check = {
  id: 'style-in-body',
  concern: 'blocking',
  question: 'Do stylesheets in the body block what follows them?',
  examines: 'Stylesheet links below the head whose media applies to this screen.',
  cannotSee: 'Stylesheets that scripts add.',
  fixedWhen: 'The link is in the head, or its rules are part of a stylesheet there.',
  harms: ['tidy', 'slow'],
  standard: 'HTML, 4.2.4 (body-ok) and 4.6.7.20',
  change: 'Move what is needed above the fold into the head, and load the rest without blocking.',
  examine(subject) {
    const { hero, page } = subject;
    const screen = screenOf(page.capture.conditions);
    return page.mentions.flatMap((m) => {
      const { attributes, inHead, inert } = m.element;
      if (m.kind !== 'style' || inHead || inert) return [];
      if (!linksStylesheet(m.element) || !mediaMatches(attributes.get('media'), screen)) return [];
      const load = page.loadOf(m.url);
      if (load?.status !== 200) return [];
      const before = hero.element !== undefined && m.element.start < hero.element.start;
      return [
        finding({
          check: this,
          subject,
          harm: before ? 'slow' : 'tidy',
          target: m.url,
          element: m.element,
          load,
          numbers: { bytes: load.bodyBytes },
          title: `${fileName(m.url)} is in the body${before ? ', before the hero' : ''} (${bytesText(load.bodyBytes)})`,
          plain: 'The content below this line is not shown until this stylesheet has loaded.',
        }),
      ];
    });
  },
};
