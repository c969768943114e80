import type { Load } from '../../capture/capture';
import { fileName } from '../../capture/url';
import { firstContent } from '../../load/firstContent';
import { innerEnd } from '../../source/document';
import type { Page } from '../../source/page';
import { finding, limitOf, type Check } from '../finding';
import { bytesText } from '../texts';

/** A page whose HTML shows no text and no picture: scripts make or reveal all that is seen. */
export const contentByScript: Check = {
  id: 'content-by-script',
  concern: 'blocking',
  question: 'Does the page show content before scripts have run?',
  examines: 'Text and pictures in the HTML as delivered that no style hides; scripts that ran before the first paint.',
  cannotSee: 'What the server would deliver to another visitor or to a crawler.',
  fixedWhen:
    'The HTML as delivered holds visible content, and a new recording paints it before these scripts have run.',
  harms: ['slow'],
  standard: 'Paint Timing, 2 (contentful); HTML, 13.2',
  change: 'Render the content above the fold on the server or when the site is built; let scripts add to it.',
  thresholds: [
    {
      id: 'bytes',
      name: 'size of these scripts from',
      unit: 'bytes',
      value: 10_000,
      why: 'Fewer bytes come with the first response.',
    },
  ],
  examine(subject) {
    const { page } = subject;
    const { document, capture } = page;
    const { fcpMs } = capture.measured;
    if (!document || firstContent(page, document) !== undefined) return [];
    // Without a paint there is nothing that scripts have shown: the page is blank, or shows another document only.
    const embeds = document.elements.some((e) => /^i?frame$/.test(e.tag) && !e.inert);
    if (fcpMs === undefined && (capture.observations || embeds)) return [];
    const files = scriptsBefore(page, fcpMs);
    const inline = page.scripts.reduce((sum, { element, url }) => {
      if (url !== undefined || element.inert) return sum;
      return sum + innerEnd(document.text, element) - element.startTagEnd;
    }, 0);
    const bytes = inline + files.reduce((sum, l) => sum + l.bodyBytes, 0);
    if (bytes < limitOf(this, subject, 'bytes')) return [];
    const [largest] = files;
    const others = files.length - 1;
    const names = !largest
      ? 'inline scripts have'
      : others === 0
        ? `${fileName(largest.url)} has`
        : `${fileName(largest.url)} and ${others} other script${others === 1 ? '' : 's'} have`;
    return [
      finding({
        check: this,
        subject,
        harm: 'slow',
        target: largest?.url ?? capture.page,
        element: largest && page.mentionsOf(largest.url).find((m) => m.kind === 'script' && !m.element.inert)?.element,
        load: largest,
        files: files.length > 1 ? files : undefined,
        numbers: { bytes, scripts: files.length },
        title: `Nothing is shown until ${names} run (${bytesText(bytes)})`,
        plain:
          'The HTML as delivered shows no text and no picture. Visitors see an empty page, and so do crawlers that run no scripts, until these scripts have loaded and run.',
      }),
    ];
  },
};

/** Scripts that had run before the first content was painted, largest first; all of the page where no paint was recorded. */
function scriptsBefore({ capture }: Page, fcpMs: number | undefined): Load[] {
  const until = fcpMs ?? Infinity;
  const ran = new Set(
    capture.observations?.work?.flatMap((w) => (w.kind === 'script' && w.url && w.startMs < until ? [w.url] : [])),
  );
  return capture.loads
    .filter((l) => l.kind === 'script' && l.status === 200 && l.endMs <= until && (ran.size === 0 || ran.has(l.url)))
    .sort((a, b) => b.bodyBytes - a.bodyBytes);
}
