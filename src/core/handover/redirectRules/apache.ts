import type { RedirectPlan } from './plan';
import { checksOf, headOf, partsOf, pathPattern, quoted } from './text';

/** Rules for Apache httpd, for a virtual host or a `.htaccess` file alike (mod_rewrite). */
export function apacheRules(plan: RedirectPlan): string {
  // Percent and dollar signs would refer to what was matched.
  const target = (url: string) => quoted(url.replace(/[%$]/g, '\\$&'));
  const lines = headOf(plan, [
    'Apache httpd: put this into every virtual host of these hosts (ports 80 and 443), or into .htaccess in the folder of',
    'the site. Needs mod_rewrite. Where a proxy in front speaks TLS, compare %{HTTP:X-Forwarded-Proto} instead of %{HTTPS}.',
  ]);
  lines.push('RewriteEngine On');
  const rule = (reason: string, ...text: string[]) => lines.push(`# ${reason}`, ...text);
  const pattern = (path: string) => quoted(`^/?${pathPattern(path.replace(/^\//, ''))}$`);
  const withQuery = (query: string) =>
    query ? [`RewriteCond %{QUERY_STRING} ${quoted(`^${query.replace(/[\\^$.|?*+()[\]{}]/g, '\\$&')}$`)}`] : [];
  for (const p of plan.pages) {
    const { path, query } = partsOf(p.from);
    rule(
      p.reason,
      ...withQuery(query),
      `RewriteRule ${pattern(path)} ${target(p.to)} [R=301,L,NE${query ? ',QSD' : ''}]`,
    );
  }
  for (const g of plan.gone) {
    const { path, query } = partsOf(g.from);
    rule(g.reason, ...withQuery(query), `RewriteRule ${pattern(path)} - [G]`);
  }
  for (const f of plan.folders)
    rule(
      f.reason,
      // As the browser wrote it, so that nothing is decoded on the way.
      `RewriteCond %{THE_REQUEST} ${quoted(`^[A-Z]+\\s${f.from.replace(/[\\^$.|?*+()[\]{}]/g, '\\$&')}([^\\s?]*)`)}`,
      `RewriteRule ${quoted('^')} ${quoted(`${f.to.replace(/[%$]/g, '\\$&')}%1`)} [R=301,L,NE]`,
    );
  if (plan.slash)
    rule(
      plan.slash.reason,
      `RewriteCond %{THE_REQUEST} ${quoted(plan.slash.form === 'add' ? '^[A-Z]+\\s(/(?:[^\\s?]*/)?[^\\s?/.]+)(?:[\\s?]|$)' : '^[A-Z]+\\s(/[^\\s?]*[^\\s?/])/(?:[\\s?]|$)')}`,
      `RewriteRule ${quoted('^')} ${quoted(`${plan.origin}%1${plan.slash.form === 'add' ? '/' : ''}`)} [R=301,L,NE]`,
    );
  if (plan.canonical !== undefined) {
    const { host } = new URL(plan.origin);
    const others = plan.hosts.filter((h) => h !== host);
    rule(
      plan.canonical,
      ...[
        'RewriteCond %{HTTPS} !=on',
        ...others.map((h) => `RewriteCond %{HTTP_HOST} ${quoted(`^${pathPattern(h.replace(/:\d+$/, ''))}(:\\d+)?$`)}`),
      ].map((c, i, all) =>
        `${c} [${i < all.length - 1 ? 'NC,OR' : 'NC'}]`
          .replace('!=on [NC,OR]', '!=on [OR]')
          .replace('!=on [NC]', '!=on'),
      ),
      `RewriteCond %{THE_REQUEST} ${quoted('^[A-Z]+\\s(/[^\\s?]*)')}`,
      `RewriteRule ${quoted('^')} ${quoted(`${plan.origin}%1`)} [R=301,L,NE]`,
    );
  }
  return [...lines, ...checksOf(plan), ''].join('\n');
}
