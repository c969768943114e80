import type { Load } from '../../capture/capture';
import { fileName } from '../../capture/url';
import type { SourceElement } from '../../source/document';
import { mediaMatches, screenOf } from '../../source/media';
import { asksToBlock, type Page } from '../../source/page';
import { linksStylesheet } from '../../source/linkRel';

/**
 * Whether a load blocks the first paint: what the recording says, else what the source says.
 * See `predictRenderBlocking`.
 */
export function isRenderBlocking(page: Page, load: Load): boolean {
  return load.renderBlocking ?? predictRenderBlocking(page, load);
}

/**
 * What Resource Timing's renderBlockingStatus says of a load, told from the source alone: stylesheets of the head
 * whose media applies, what they import, style elements' imports, and classic scripts of the head without async or
 * defer, all as they stand in the markup or are written by a script of the head; scripts and sheets with
 * blocking=render (HTML, 2.5.8 and 4.2.7).
 */
export function predictRenderBlocking(page: Page, load: Load): boolean {
  return byElements(page, load) || byImport(page, load, new Set()) || written(page, load);
}

function byElements(page: Page, load: Load): boolean {
  return page.mentionsOf(load.url).some((m) => !m.element.inert && m.use === 'load' && elementBlocks(page, m.element));
}

/** True for an element that makes the browser hold back rendering until its file is there. */
function elementBlocks(page: Page, e: SourceElement): boolean {
  const asked = asksToBlock(e);
  if (e.tag === 'link') {
    if (!linksStylesheet(e)) return false;
    return e.inHead && mediaMatches(e.attributes.get('media'), screenOf(page.capture.conditions));
  }
  if (e.tag !== 'script' || !e.inHead) return false;
  const type = e.attributes.get('type')?.trim().toLowerCase() ?? '';
  if (type === 'module') return asked;
  if (e.attributes.has('nomodule')) return false;
  return asked || !(e.attributes.has('async') || e.attributes.has('defer'));
}

/** Written into the head by a script there: its text then names the file. */
function written(page: Page, load: Load): boolean {
  if ((load.kind !== 'script' && load.kind !== 'style') || page.mentionsOf(load.url).length > 0) return false;
  const name = fileName(load.url);
  return page.scripts.some((script) => {
    if (!script.element.inHead || script.mode === 'async' || script.mode === 'defer') return false;
    const own = script.url === undefined ? undefined : page.loadOf(script.url);
    const text = script.url === undefined ? script.element.text : own && page.bodies.text(own);
    return text !== undefined && /\bdocument\s*\.\s*write/.test(text) && text.includes(name);
  });
}

/** Imported by a blocking sheet, or by a style element of the head. */
function byImport(page: Page, load: Load, seen: Set<string>): boolean {
  if (load.kind !== 'style' || seen.has(load.url)) return false;
  seen.add(load.url);
  return page.styles.some((sheet) => {
    if (!sheet.references.some((r) => r.use === 'import' && r.url === load.url)) return false;
    if (sheet.element) return sheet.element.tag === 'style' && sheet.element.inHead;
    return sheet.load !== undefined && (byElements(page, sheet.load) || byImport(page, sheet.load, seen));
  });
}
