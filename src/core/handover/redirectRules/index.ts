import { toCsv } from '../csv';
import { apacheRules } from './apache';
import { caddyRules } from './caddy';
import { nginxRules } from './nginx';
import type { RedirectPlan } from './plan';

/** Rules as a plain table, for servers that are set up in other ways. */
export function tableRules(plan: RedirectPlan): string {
  return toCsv(
    ['from', 'to', 'status', 'kind', 'reason'],
    [
      ...plan.pages.map((p) => [p.from, p.to, 301, 'page', p.reason]),
      ...plan.gone.map((g) => [g.from, '', 410, 'page', g.reason]),
      ...plan.folders.map((f) => [`${f.from}*`, `${f.to}*`, 301, 'folder', f.reason]),
      ...(plan.slash
        ? [
            [
              plan.slash.form === 'add' ? '/*' : '/*/',
              plan.slash.form === 'add' ? '/*/' : '/*',
              301,
              'trailing slash',
              plan.slash.reason,
            ],
          ]
        : []),
      ...(plan.canonical === undefined
        ? []
        : plan.hosts
            .flatMap((h) => [`http://${h}`, `https://${h}`])
            .filter((o) => o !== plan.origin)
            .map((o) => [`${o}/*`, `${plan.origin}/*`, 301, 'host', plan.canonical])),
      ...plan.refused.map((r) => [r.from, r.to, '', 'left out', r.why]),
    ],
  );
}

/** Writers of redirect rules, by server. */
export const RULES = {
  nginx: { name: 'nginx', file: 'redirects.nginx.conf', write: nginxRules },
  apache: { name: 'Apache httpd', file: 'redirects.htaccess', write: apacheRules },
  caddy: { name: 'Caddy', file: 'redirects.caddy', write: caddyRules },
  table: { name: 'Table (CSV)', file: 'redirects.csv', write: tableRules },
} as const;

export type RuleServer = keyof typeof RULES;
