import { fileName } from '../../capture/url';
import type { Page } from '../../source/page';
import { finding, type Check } from '../finding';

/** Stylesheets that are known only when another one has come. */
export const importChain: Check = {
  id: 'import-chain',
  concern: 'blocking',
  question: 'Do stylesheets import other stylesheets?',
  examines: '@import in loaded stylesheets, and the depth of the chain.',
  cannotSee: 'Imports in stylesheets without a body in the capture.',
  fixedWhen: 'The imported sheet is linked in the head, or its rules are part of the importing sheet.',
  harms: ['slow'],
  standard: 'CSS Cascade 5, 2 (@import)',
  change: 'Link the imported sheet in the head, or bundle the two.',
  examine(subject) {
    const { page } = subject;
    return page.styles.flatMap((sheet) =>
      sheet.references
        .filter((r) => r.use === 'import')
        .flatMap((r) => {
          const load = page.loadOf(r.url);
          if (load?.kind !== 'style' || load.status !== 200 || load.renderBlocking === false) return [];
          const depth = depthOf(page, r.url);
          return [
            finding({
              check: this,
              subject,
              harm: 'slow',
              target: r.url,
              style: { sheet, offset: r.offset },
              load,
              numbers: { depth, bytes: load.bodyBytes },
              title: `${fileName(r.url)} is discovered only after ${sheet.load ? fileName(sheet.url) : 'a style element'} (@import, level ${depth})`,
              plain: 'Nothing is shown until one stylesheet has loaded and then the next one.',
            }),
          ];
        }),
    );
  },
};

/** Levels of @import above a sheet; a circle ends the count. */
function depthOf(page: Page, url: string): number {
  const seen = new Set<string>();
  let depth = 0;
  for (let at: string | undefined = url; at !== undefined && !seen.has(at);) {
    seen.add(at);
    const wanted: string = at;
    const by = page.styles.find((s) => s.references.some((r) => r.use === 'import' && r.url === wanted));
    if (!by) break;
    depth++;
    at = by.load?.url;
  }
  return depth;
}
