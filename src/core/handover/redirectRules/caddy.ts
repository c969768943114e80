import type { RedirectPlan } from './plan';
import { checksOf, headOf, partsOf, pathPattern, quoted } from './text';

/** Rules for Caddy 2, to be imported in the site block of the hosts. */
export function caddyRules(plan: RedirectPlan): string {
  const { host } = new URL(plan.origin);
  const lines = headOf(plan, [
    `Caddy: import this file in one site block for ${plan.hosts.flatMap((h) => [`http://${h}`, `https://${h}`]).join(', ')}.`,
  ]);
  lines.push('route {');
  const redirected = plan.pages.filter((p) => keepsQuery(p.from, p.to));
  // What comes after the address stays as the browser wrote it.
  if (redirected.length > 0) lines.push('\tmap {query} {kept_query} {', '\t\t~(.+) "?${1}"', '\t\tdefault ""', '\t}');
  let n = 0;
  const rule = (reason: string, matcher: readonly string[], act: (name: string) => string) => {
    const name = `rule${++n}`;
    lines.push(`\t# ${reason}`, `\t@${name} {`, ...matcher.map((m) => `\t\t${m}`), '\t}', `\t${act(name)}`);
  };
  for (const p of plan.pages)
    rule(
      p.reason,
      matcherOf(p.from),
      (name) => `redir @${name} ${quoted(p.to + (keepsQuery(p.from, p.to) ? '{kept_query}' : ''))} 301`,
    );
  for (const g of plan.gone) rule(g.reason, matcherOf(g.from), (name) => `respond @${name} 410`);
  /** Redirects what a pattern of the whole request address matches. */
  const byPattern = (reason: string, pattern: string, to: string) => {
    const part = `part${n + 1}`;
    lines.push(`\tmap {uri} {${part}} {`, `\t\t~${pattern} "${to}"`, '\t\tdefault ""', '\t}');
    rule(reason, [`expression ${backticked(`{${part}} != ""`)}`], (name) => `redir @${name} {${part}} 301`);
  };
  for (const f of plan.folders) byPattern(f.reason, quoted(`^${escaped(f.from)}(.*)$`).slice(1, -1), `${f.to}\${1}`);
  if (plan.slash?.form === 'add')
    byPattern(plan.slash.reason, '^((?:/[^?]*)?/[^/?.]+)(\\?.*)?$', `${plan.origin}\${1}/\${2}`);
  if (plan.slash?.form === 'remove')
    byPattern(plan.slash.reason, '^(/[^?]*[^/?])/(\\?.*)?$', `${plan.origin}\${1}\${2}`);
  if (plan.canonical !== undefined) {
    const others = plan.hosts.filter((h) => h !== host).map((h) => h.replace(/:\d+$/, ''));
    lines.push(`\t# ${plan.canonical}`, '\t@plain protocol http', `\tredir @plain ${plan.origin}{uri} 301`);
    if (others.length > 0) lines.push(`\t@other host ${others.join(' ')}`, `\tredir @other ${plan.origin}{uri} 301`);
  }
  lines.push('}');
  return [...lines, ...checksOf(plan), ''].join('\n');
}

/** The query of a request goes along where neither address has one of its own. */
const keepsQuery = (from: string, to: string) => !from.includes('?') && !to.includes('?');

function matcherOf(from: string): string[] {
  const { path, query } = partsOf(from);
  return [
    `path_regexp ${quoted(`^${pathPattern(path)}$`)}`,
    ...(query ? [`expression ${backticked(`{query} == ${JSON.stringify(query)}`)}`] : []),
  ];
}

const escaped = (text: string) => text.replace(/[\\^$.|?*+()[\]{}]/g, '\\$&');
const backticked = (text: string) => '`' + text.replaceAll('`', '') + '`';
