import { isThirdParty } from '../../capture/site';
import { fileName, hostOf } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';
import { isRenderBlocking } from './verdict';
import { linksStylesheet } from '../../source/linkRel';

/** Stylesheets that hold back the first paint and are heavy, foreign or chained by @import. */
export const styleBlocking: Check = {
  id: 'style-blocking',
  concern: 'blocking',
  question: 'Which stylesheets block the first paint?',
  examines: 'Stylesheet links whose media applies to this screen, their size, host and @import chains.',
  cannotSee: 'Which of their rules are used above the fold.',
  fixedWhen: 'The stylesheet is not in the head any more, or is small, first-party and without @import.',
  harms: ['slow'],
  standard: 'HTML, 4.6.7 and 4.2.4',
  change: 'Inline the critical CSS and load the rest later, or split the sheet by media.',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of a sheet from',
      unit: 'bytes',
      value: 12_000,
      why: 'Fits in the first round trips of a new connection next to the document.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    return page.mentions.flatMap((m) => {
      if (m.kind !== 'style' || m.element.inert || !linksStylesheet(m.element)) return [];
      const load = page.loadOf(m.url);
      if (!load || load.status !== 200 || !m.element.inHead || !isRenderBlocking(page, load)) return [];
      const imports =
        page.styles
          .find((s) => s.load === load)
          ?.references.filter((r) => r.use === 'import' && page.loadOf(r.url)?.status === 200) ?? [];
      const foreign = isThirdParty(page, load.url);
      if (load.bodyBytes < limitOf(this, subject, 'bytes') && !foreign && imports.length === 0) return [];
      const why =
        imports.length > 0
          ? `and imports ${imports.map((r) => fileName(r.url)).join(', ')}`
          : foreign
            ? `from ${hostOf(load.url)}`
            : bytesText(load.bodyBytes);
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: m.url,
          element: m.element,
          load,
          numbers: { bytes: load.bodyBytes, imports: imports.length },
          title: `${fileName(m.url)} blocks the first paint (${why})`,
          plain:
            imports.length > 0
              ? 'Nothing is shown until this stylesheet and the one it imports have loaded.'
              : 'Nothing is shown until the whole stylesheet has loaded, although the content above the fold needs only a part of it.',
        }),
      ];
    });
  },
};
