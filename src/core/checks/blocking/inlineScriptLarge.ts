import { innerEnd } from '../../source/document';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** Large scripts in the document, in front of what the visitor came for. */
export const inlineScriptLarge: Check = {
  id: 'inline-script-large',
  concern: 'blocking',
  question: 'Do large inline scripts block the first paint?',
  examines: 'Large inline scripts in the head, in bytes of the source.',
  cannotSee: 'How long they run on a given CPU.',
  fixedWhen: 'The script is a file with defer, or small enough for the head.',
  harms: ['slow'],
  standard: 'HTML, 4.12.1',
  change: 'Move it to a file with defer; keep inline what the content above the fold needs.',
  groupedBy: 'place',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of a script from',
      unit: 'bytes',
      value: 10_000,
      why: 'Less is not noticeable, even on a phone.',
    },
  ],
  examine(subject) {
    const { document, scripts } = subject.page;
    if (!document) return [];
    return scripts.flatMap(({ element, mode }) => {
      if (mode !== 'inline' || element.inert || !element.inHead) return [];
      const length = innerEnd(document.text, element) - element.startTagEnd;
      if (length < limitOf(this, subject, 'bytes')) return [];
      return [
        finding({
          check: this,
          subject,
          harm: 'slow',
          target: subject.page.capture.page,
          element,
          numbers: { bytes: length },
          title: `${bytesText(length)} of inline script in the head runs before the first paint`,
          plain: 'The browser runs this script before it shows anything, on every visit.',
        }),
      ];
    });
  },
};
