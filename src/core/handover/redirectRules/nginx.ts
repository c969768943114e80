import type { RedirectPlan } from './plan';
import { checksOf, headOf, partsOf, pathPattern, quoted } from './text';

/** Rules for nginx, to be included in the server blocks of the site. */
export function nginxRules(plan: RedirectPlan): string {
  // A dollar sign would begin a variable.
  const target = (url: string) => quoted(url.replaceAll('$', '%24'));
  const lines = headOf(plan, [
    'nginx: include this file in every server block of these hosts (ports 80 and 443), above its locations.',
    'Where a proxy in front speaks TLS, compare $http_x_forwarded_proto instead of $scheme.',
  ]);
  const rule = (reason: string, ...text: string[]) => lines.push(`# ${reason}`, ...text);
  for (const p of plan.pages) {
    const { path, query } = partsOf(p.from);
    if (query)
      rule(p.reason, `if ($request_uri = ${quoted(p.from.replaceAll('$', '\\$'))}) { return 301 ${target(p.to)}; }`);
    else rule(p.reason, `rewrite ${quoted(`^${pathPattern(path)}$`)} ${target(p.to)} permanent;`);
  }
  for (const g of plan.gone) {
    const { path, query } = partsOf(g.from);
    rule(
      g.reason,
      query
        ? `if ($request_uri = ${quoted(g.from)}) { return 410; }`
        : `if ($uri ~ ${quoted(`^${pathPattern(path)}$`)}) { return 410; }`,
    );
  }
  for (const f of plan.folders)
    rule(
      f.reason,
      `rewrite ${quoted(`^${pathPattern(f.from)}(.*)$`)} ${quoted(`${f.to.replaceAll('$', '%24')}$1`)} permanent;`,
    );
  if (plan.slash)
    rule(
      plan.slash.reason,
      plan.slash.form === 'add'
        ? `rewrite ${quoted('^(.*/[^/.]+)$')} ${quoted(`${plan.origin}$1/`)} permanent;`
        : `rewrite ${quoted('^(.+)/$')} ${quoted(`${plan.origin}$1`)} permanent;`,
    );
  if (plan.canonical !== undefined) {
    const { host } = new URL(plan.origin);
    rule(
      plan.canonical,
      'set $to_one_address "";',
      'if ($scheme = http) { set $to_one_address yes; }',
      ...plan.hosts
        .filter((h) => h !== host)
        .map((h) => `if ($host = ${quoted(h.replace(/:\d+$/, ''))}) { set $to_one_address yes; }`),
      `if ($to_one_address) { return 301 ${plan.origin}$request_uri; }`,
    );
  }
  return [...lines, ...checksOf(plan), ''].join('\n');
}
