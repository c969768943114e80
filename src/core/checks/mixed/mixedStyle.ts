import { fileName } from '../../capture/url';
import { finding, type Check } from '../finding';
import { isMixed, isUpgradeable, masksMixed, mixedPlain } from './mixedKinds';

/** A stylesheet of a secure page that names http addresses. */
export const mixedStyle: Check = {
  id: 'mixed-style',
  concern: 'mixed',
  question: 'Do the stylesheets of this https page load anything over http?',
  examines:
    'url(), @import and @font-face in every stylesheet whose contents are in the capture, in style elements and style attributes.',
  cannotSee: 'Stylesheets whose contents are not in the capture.',
  fixedWhen: 'The stylesheet uses https://, and the file loads from there.',
  harms: ['broken', 'exposed', 'tidy'],
  standard: 'Mixed Content, 3.1 and 3.2; CSS Values 4, 4.5',
  change: 'Use https:// in the url(), @import or src of this rule.',
  examine(subject) {
    const { page } = subject;
    const masked = masksMixed(page);
    return page.styles.flatMap((sheet) =>
      sheet.references
        .filter((r) => isMixed(page, r.url))
        .map((r) => {
          const upgradeable = isUpgradeable(page, { url: r.url, kind: r.use === 'image' ? 'image' : 'other' });
          const what = r.use === 'image' ? 'picture' : r.use === 'font' ? 'font' : 'stylesheet';
          return finding({
            check: this,
            subject,
            harm: masked ? 'tidy' : upgradeable ? 'exposed' : 'broken',
            target: r.url,
            style: { sheet, offset: r.offset },
            load: page.loadOf(r.url),
            fault: r.property || r.use,
            numbers: { upgradeable: upgradeable ? 1 : 0 },
            title: `A stylesheet loads ${fileName(r.url)} over http (${what}, ${upgradeable ? 'upgradeable' : 'blockable'}${r.property ? `, ${r.property}` : ', @import'})`,
            plain: mixedPlain(upgradeable, what),
          });
        }),
    );
  },
};
