import { rememberByText } from '../../remember';
import { fileName } from '../../capture/url';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/**
 * Characters of a stylesheet or script that only people read: indentation, empty lines, and comments that have
 * lines of their own. What stands inside a line is left alone, so the figure is rather too small.
 */
export const readingOnly = rememberByText(countReadingOnly);

function countReadingOnly(text: string): number {
  let sum = 0;
  let inComment = false;
  for (const line of text.split('\n')) {
    const trimmed = line.trim();
    if (inComment || trimmed.startsWith('/*')) {
      sum += line.length + 1;
      const end = trimmed.lastIndexOf('*/');
      inComment = end < 0;
      // Code behind the end of a comment counts for code.
      if (end >= 0) sum -= trimmed.length - end - 2;
    } else if (trimmed === '' || trimmed.startsWith('//')) sum += line.length + 1;
    else sum += line.length - line.trimStart().length;
  }
  return Math.max(0, sum - 1);
}

/** Styles and scripts as people write them. */
export const textUnminified: Check = {
  id: 'text-unminified',
  concern: 'weight',
  question: 'Are styles and scripts minified?',
  examines: 'Indentation, empty lines and whole-line comments of styles and scripts.',
  cannotSee: 'Long names and white space inside lines: a minifier saves more. After compression the saving is smaller.',
  fixedWhen: 'The file has no indentation and comments, and the page works as before.',
  harms: ['tidy'],
  standard: 'Best practice (no standard)',
  change: 'Minify in the build, and check that the page works as before.',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of a file from',
      unit: 'bytes',
      value: 10_000,
      why: 'Small files are not worth minifying.',
    },
    {
      id: 'share',
      name: 'share to be saved from',
      unit: 'share',
      value: 0.15,
      why: 'Below this, compression already saves most of it.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    return page.capture.loads.flatMap((load) => {
      if ((load.kind !== 'style' && load.kind !== 'script') || load.status !== 200) return [];
      const text = page.bodies.text(load);
      if (!text || text.length < limitOf(this, subject, 'bytes')) return [];
      const idle = readingOnly(text);
      if (idle < text.length * limitOf(this, subject, 'share')) return [];
      const saved = Math.round((idle * load.bodyBytes) / Math.max(1, load.decodedBytes));
      return [
        finding({
          check: this,
          subject,
          harm: 'tidy',
          target: load.url,
          element: page.mentionsOf(load.url)[0]?.element,
          load,
          numbers: { idleBytes: idle, savedBytes: saved },
          title: `${fileName(load.url)} is not minified: ${Math.round((100 * idle) / text.length)} % of it (${bytesText(idle)}) is indentation and comments`,
          plain: 'Part of this file is there for its authors only, and every visitor loads it.',
        }),
      ];
    });
  },
};
