import { SaxesParser } from 'saxes';

/** What a sitemap file holds (Sitemaps XML format 0.9). */
export interface Sitemap {
  readonly pages: readonly { readonly url: string; readonly lastModified?: string }[];
  /** Sitemaps that an index names. */
  readonly sitemaps: readonly string[];
  /** What was wrong with it; what came before is kept. */
  readonly fault?: string;
}

/** Addresses that one file may hold (Sitemaps XML format 0.9). */
export const MAX_SITEMAP_URLS = 50_000;

/**
 * Reads a sitemap, a sitemap index, an RSS or Atom feed, or a plain list with one address a line. Entities of
 * its own that an XML file declares are not expanded.
 */
export function readSitemap(text: string, url: string): Sitemap {
  if (!/^\s*(\uFEFF)?\s*</.test(text)) return readTextSitemap(text, url);
  const pages: { url: string; lastModified?: string }[] = [];
  const sitemaps: string[] = [];
  const path: string[] = [];
  let value = '';
  let loc: string | undefined;
  let lastModified: string | undefined;
  let fault: string | undefined;
  const parser = new SaxesParser();
  parser.on('error', (error) => {
    fault ??= `not well-formed XML: ${error.message}`;
  });
  parser.on('opentag', (tag) => {
    path.push(local(tag.name));
    value = '';
    const href = tag.attributes['href'];
    if (local(tag.name) === 'link' && path.at(-2) === 'entry' && typeof href === 'string') loc = href;
  });
  parser.on('text', (t) => (value += t));
  parser.on('cdata', (t) => (value += t));
  parser.on('closetag', (tag) => {
    // What the parser makes of the rest after a fault is a guess.
    if (fault) return;
    const name = local(tag.name);
    const parent = path.at(-2);
    if ((name === 'loc' && (parent === 'url' || parent === 'sitemap')) || (name === 'link' && parent === 'item'))
      loc = value.trim();
    if (name === 'lastmod') lastModified = value.trim();
    if (name === 'url' || name === 'sitemap' || name === 'item' || name === 'entry') {
      const found = loc ? absolute(loc, url) : undefined;
      if (found && name === 'sitemap') sitemaps.push(found);
      else if (found && pages.length < MAX_SITEMAP_URLS) pages.push({ url: found, lastModified });
      else if (found)
        fault ??= `more than ${MAX_SITEMAP_URLS.toLocaleString('en-GB')} addresses: the rest was left out`;
      loc = lastModified = undefined;
    }
    path.pop();
    value = '';
  });
  try {
    for (let at = 0; at < text.length && !fault; at += 65_536) parser.write(text.slice(at, at + 65_536));
    if (!fault) parser.close();
  } catch (error) {
    fault ??= `not well-formed XML: ${error instanceof Error ? error.message : String(error)}`;
  }
  if (!fault && pages.length === 0 && sitemaps.length === 0) fault = 'no address in it';
  return { pages, sitemaps, fault };
}

function readTextSitemap(text: string, base: string): Sitemap {
  const lines = text.split(/\r?\n/).map((l) => l.trim());
  const pages = lines.filter((l) => /^https?:\/\//i.test(l)).flatMap((l) => absolute(l, base) ?? []);
  return {
    pages: pages.slice(0, MAX_SITEMAP_URLS).map((url) => ({ url })),
    sitemaps: [],
    fault: pages.length === 0 ? 'neither XML nor a list of addresses' : undefined,
  };
}

const local = (name: string) => name.slice(name.indexOf(':') + 1).toLowerCase();

function absolute(reference: string, base: string): string | undefined {
  try {
    return new URL(reference, base).href;
  } catch {
    return undefined;
  }
}
