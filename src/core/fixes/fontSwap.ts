import { displayOf, fontUses, hidesText } from '../source/fontUse';
import type { Finding } from '../checks/finding';
import { fileName } from '../capture/url';
import type { Edit } from './edits';
import { type FixKind, aboutOwnFiles, offerEach, type GraphEdit } from './fix';
import { fetchesOf } from './graphEdits';

/** The file in which the rule of a font stands. */
export const sheetOf = (f: Finding) => f.evidence.source?.url ?? f.target;

/** What it does to the graph. */
export const fontSwapGraph: GraphEdit = {
  order: 35,
  onGraph(graph, fix) {
    const { hero, contentFont } = graph;
    const ids = new Set(fix.target === '*' ? [hero.font, contentFont] : fetchesOf(graph, fix.target).map((f) => f.id));
    const ofHero = hero.font >= 0 && ids.has(hero.font);
    const ofContent = contentFont >= 0 && ids.has(contentFont);
    if (!ofHero && !ofContent) return graph;
    return {
      ...graph,
      hero: ofHero ? { ...hero, font: -1 } : hero,
      contentFont: ofContent ? -1 : contentFont,
    };
  },
};

/** Text is shown in another font until its own has come (CSS Fonts 4, 4.9). */
export const fontSwap: FixKind = {
  id: 'font-swap',
  title: 'Show text while its font loads',
  ...fontSwapGraph,
  effort: 5,
  offer(findings, context) {
    return offerEach(this, aboutOwnFiles(findings, context, sheetOf), context, 'font-display', (f) => ({
      title: `Show text while ${fileName(f.target)} loads`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    return fontUses(page)
      .filter((use) => use.sheet.load && hidesText(use) && (fix.target === '*' || use.load.url === fix.target))
      .flatMap((use): Edit[] => {
        const { face, sheet } = use;
        if (!face) return [];
        const at = sheet.text.indexOf('{', face.start) + 1;
        const url = sheet.url;
        if (displayOf(use) === 'auto' && !face.declarations.has('font-display'))
          return [{ url, start: at, end: at, text: 'font-display:swap;' }];
        const said = /font-display\s*:\s*[a-z]+/i.exec(sheet.text.slice(face.start, face.end));
        if (!said) return [];
        const start = face.start + said.index;
        return [{ url, start, end: start + said[0].length, text: 'font-display:swap' }];
      });
  },
};
