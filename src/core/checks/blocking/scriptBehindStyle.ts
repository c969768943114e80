import { isThirdParty } from '../../capture/site';
import { fileName } from '../../capture/url';
import { mediaMatches, screenOf } from '../../source/media';
import { finding, type Check } from '../finding';
import { linksStylesheet } from '../../source/linkRel';

/** An inline script that has to wait for a stylesheet, and holds up the parser meanwhile. */
export const scriptBehindStyle: Check = {
  id: 'script-behind-style',
  concern: 'blocking',
  question: 'Do inline scripts wait for earlier stylesheets?',
  examines: 'Inline scripts after a stylesheet link in the order of the source.',
  cannotSee: 'Whether the script needs the styles. Most do not.',
  fixedWhen: 'The script is above the stylesheet links, or is a file with defer.',
  harms: ['tidy', 'slow'],
  standard: 'HTML, 4.12.1.1 and 4.2.7 ("a style sheet that is blocking scripts")',
  change: 'Move the inline script above the stylesheet links, or into a file with defer.',
  groupedBy: 'place',
  examine(subject) {
    const { page } = subject;
    const screen = screenOf(page.capture.conditions);
    const sheets = page.mentions.filter((m) => {
      const load = page.loadOf(m.url);
      return (
        m.kind === 'style' &&
        !m.element.inert &&
        linksStylesheet(m.element) &&
        mediaMatches(m.element.attributes.get('media'), screen) &&
        load !== undefined &&
        load.status === 200
      );
    });
    const script = page.scripts.find(
      (s) => s.mode === 'inline' && sheets.some((m) => m.element.start < s.element.start),
    );
    const sheet = script && sheets.findLast((m) => m.element.start < script.element.start);
    if (!script || !sheet) return [];
    const load = page.loadOf(sheet.url);
    const foreign = isThirdParty(page, sheet.url);
    // At the end of the body the parser has nothing left to be held from.
    const rest = (page.document?.text.length ?? 0) - script.element.end;
    if (!foreign && rest < 2_000) return [];
    return [
      finding({
        check: this,
        subject,
        harm: foreign ? 'slow' : 'tidy',
        target: sheet.url,
        element: script.element,
        load,
        numbers: { bytes: load?.bodyBytes ?? 0, thirdParty: foreign ? 1 : 0 },
        title: `An inline script, and with it the parser, waits for ${fileName(sheet.url)}`,
        plain: 'The browser stops parsing until this stylesheet has loaded, because of a small script behind it.',
      }),
    ];
  },
};
