import { fontUses } from '../source/fontUse';
import { fileName } from '../capture/url';
import type { Edit } from './edits';
import { type FixKind, aboutOwnFiles, offerEach, type GraphEdit } from './fix';
import { editFetches, fetchesOf } from './graphEdits';

/** WOFF 2 against WOFF 1, and against a bare font: medians of text fonts. */
const SMALLER = { woff: 0.78, bare: 0.43 } as const;

/** What it does to the graph. */
export const fontConvertGraph: GraphEdit = {
  order: 63,
  onGraph(graph, fix) {
    const ids = new Set(
      (fix.target === '*' ? graph.fetches : fetchesOf(graph, fix.target))
        .filter((f) => f.kind === 'font' && !/\.woff2(?:$|\?)/.test(f.url))
        .map((f) => f.id),
    );
    return editFetches(graph, (f) => {
      if (!ids.has(f.id)) return f;
      const bytes =
        fix.values.bytes ?? Math.round(f.decodedBytes * (/\.woff(?:$|\?)/.test(f.url) ? SMALLER.woff : SMALLER.bare));
      return bytes < f.bodyBytes ? { ...f, bodyBytes: bytes, decodedBytes: bytes } : f;
    });
  },
};

/** A font comes as WOFF 2. `bytes`: its new size. */
export const fontConvert: FixKind = {
  id: 'font-convert',
  title: 'Convert a font to WOFF 2',
  ...fontConvertGraph,
  effort: 15,
  offer(findings, context) {
    return offerEach(this, aboutOwnFiles(findings, context), context, 'font-format', (f) => ({
      title: `Convert ${fileName(f.target)} to WOFF 2`,
      group: f.target,
    }));
  },
  onSource(fix, { page }) {
    return fontUses(page)
      .filter((use) => use.sheet.load && (fix.target === '*' || use.load.url === fix.target))
      .flatMap(({ sheet, reference }): Edit[] => {
        const end = reference.offset + reference.length;
        const edits: Edit[] = [{ url: sheet.url, start: reference.offset, end, text: asWoff2(reference.raw) }];
        const format = /^["']?\)\s*format\(\s*["']?[\w-]+["']?\s*\)/.exec(sheet.text.slice(end));
        if (format) {
          const start = end + format[0].indexOf('format');
          edits.push({ url: sheet.url, start, end: end + format[0].length, text: 'format("woff2")' });
        }
        return edits;
      });
  },
  onServer(fix, { page }) {
    return page.capture.loads
      .filter((l) => l.kind === 'font' && (fix.target === '*' || l.url === fix.target))
      .map((l) => ({ do: 'convert', url: l.url, to: asWoff2(l.url) }));
  },
};

const asWoff2 = (url: string) => url.replace(/\.(woff|ttf|otf|eot)(?=$|[?#])/i, '.woff2');
