import { ESTIMATED_WORK } from '../load/estimates';
import { ownTextLength } from '../source/document';
import type { Page } from '../source/page';
import { renderedContent, type RenderedPart } from '../source/renderedContent';
import { insertAt } from './edits';
import { offerEach, type FixKind, type GraphEdit, type OfferContext } from './fix';
import { growDocument } from './growDocument';
import { priorityInMarkup } from './heroEager';

/** What compression leaves of HTML, and what a first screen has of it where nobody has seen the rendered document. */
const COMPRESSED = 0.22;
const UNSEEN_BYTES = 15_000;
/** Markup up to the end of the first text, in bytes. */
const FIRST_TEXT_BYTES = 400;

/** What it does to the graph. */
export const contentInHtmlGraph: GraphEdit = {
  order: 13,
  onGraph(graph, fix) {
    const { document, hero } = graph;
    if ((document.contentBuiltBy ?? -1) < 0) return graph;
    const decoded = fix.values.decoded ?? UNSEEN_BYTES;
    const at = document.bodyOffset;
    const grown = growDocument(graph, at, fix.values.bytes ?? Math.round(decoded * COMPRESSED), decoded);
    // What is in the source and hidden stays where it is.
    const isHidden = decoded === 0;
    const heroAt = isHidden ? hero.offset : at + Math.min(decoded, fix.values.hero ?? FIRST_TEXT_BYTES);
    const isBuilt = hero.builtBy >= 0 || hero.afterEvent !== undefined;
    return {
      ...grown,
      fetches: grown.fetches.map((f) =>
        // Pictures of the first screen are named by the document then, not by a script.
        f.kind === 'image' && (f.inViewport || f.id === hero.fetch) && /^(script|event)$/.test(f.discovery.by)
          ? {
              ...f,
              discovery: { by: 'scanner', offset: heroAt },
              priority: priorityInMarkup(grown, f, heroAt),
              holdsLoad: true,
            }
          : f,
      ),
      hero: isBuilt ? { ...grown.hero, builtBy: -1, afterEvent: undefined, offset: heroAt } : grown.hero,
      document: {
        ...grown.document,
        contentOffset: Math.min(grown.document.decodedBytes, at + FIRST_TEXT_BYTES),
        contentBuiltBy: -1,
        parseMs: document.parseMs + decoded * ESTIMATED_WORK.parsePerByte,
      },
    };
  },
};

/**
 * The server delivers the content that scripts make today, and scripts take it over. `bytes`: by how much the
 * transferred document grows; `decoded`: the same without compression; `hero`: where the hero ends in what is added.
 */
export const contentInHtml: FixKind = {
  id: 'content-in-html',
  title: 'Put content that scripts create into the HTML',
  ...contentInHtmlGraph,
  effort: 960,
  offer(findings, context) {
    return offerEach(this, findings, context, 'content-by-script', (f) => {
      const parts = renderedContent(context.page);
      const isHidden = isThere(context.page, parts);
      return {
        title: isHidden ? 'Show the content before scripts have run' : this.title,
        group: f.target,
        values: isHidden ? { bytes: 0, decoded: 0 } : valuesOf(parts, context),
      };
    });
  },
  onSource(_fix, { page }) {
    const { document } = page;
    const parts = renderedContent(page);
    return document && !isThere(page, parts) ? parts.map((p) => insertAt(document.url, p.offset, p.html)) : [];
  },
};

/** Whether the source has most of the text already, hidden by styles: scripts only show it. */
function isThere(page: Page, parts: readonly RenderedPart[]): boolean {
  const own = (page.document?.elements ?? [])
    .filter((e) => !e.inHead && !e.inert && !NO_TEXT.test(e.tag))
    .reduce((sum, e) => sum + ownTextLength(e), 0);
  const made = parts.reduce((sum, p) => sum + p.html.replace(/<[^>]*>/g, '').trim().length, 0);
  return own > 0 && own >= made;
}

const NO_TEXT = /^(script|style|noscript|template|title)$/;

function valuesOf(parts: readonly RenderedPart[], { page, hero }: OfferContext): Record<string, number> {
  if (parts.length === 0) return {};
  const decoded = parts.reduce((sum, p) => sum + p.html.length, 0);
  const load = page.capture.loads[page.capture.documentIndex];
  const isCompressed = load?.responseHeaders.some((h) => /^content-encoding$/i.test(h.name));
  const bytes = Math.round(decoded * (isCompressed ? COMPRESSED : 1));
  const shown = hero.path ? page.rendered?.document.byPath.get(hero.path) : undefined;
  let before = 0;
  for (const part of parts) {
    if (shown && shown.start >= part.from && shown.start < part.to)
      return { bytes, decoded, hero: before + Math.min(part.html.length, shown.end - part.from) };
    before += part.html.length;
  }
  return { bytes, decoded };
}
