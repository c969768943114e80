import { MAX_SITEMAP_URLS } from '../site/sitemap';

const escaped = (text: string) => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/**
 * Sitemaps of addresses (Sitemaps XML format 0.9): at most 50,000 a file; with more than one file an index comes first.
 * @param base folder in which the files will lie, with a slash at the end
 */
export function sitemapFiles(urls: readonly string[], base: string): { readonly name: string; readonly xml: string }[] {
  const head = '<?xml version="1.0" encoding="UTF-8"?>\n';
  const ns = 'xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"';
  const files: { name: string; xml: string }[] = [];
  const parts = Math.max(1, Math.ceil(urls.length / MAX_SITEMAP_URLS));
  for (let i = 0; i < parts; i++) {
    const own = urls.slice(i * MAX_SITEMAP_URLS, (i + 1) * MAX_SITEMAP_URLS);
    files.push({
      name: parts === 1 ? 'sitemap.xml' : `sitemap-${i + 1}.xml`,
      xml: `${head}<urlset ${ns}>\n${own.map((u) => `  <url><loc>${escaped(u)}</loc></url>\n`).join('')}</urlset>\n`,
    });
  }
  if (parts === 1) return files;
  const index = files.map((f) => `  <sitemap><loc>${escaped(base + f.name)}</loc></sitemap>\n`).join('');
  return [{ name: 'sitemap.xml', xml: `${head}<sitemapindex ${ns}>\n${index}</sitemapindex>\n` }, ...files];
}
