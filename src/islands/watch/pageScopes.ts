import { parseScope, scopeText } from '../../core/plan/plan';
import type { BenchPage } from '../state/bench';
import { count } from '../ui/format';

/**
 * The pages that a limit or a history can be of: all, each template by its name, each recorded page. One that is chosen
 * and not among them any more stays in the list.
 */
export function pageScopes(pages: readonly BenchPage[], chosen: string): { value: string; name: string }[] {
  const templates = new Map<string, number>();
  for (const { template } of pages) if (template) templates.set(template.name, (templates.get(template.name) ?? 0) + 1);
  const out = [
    { value: '', name: `all ${count(pages.length, 'recorded page')}` },
    ...[...templates].map(([name, n]) => ({
      value: scopeText({ kind: 'template', template: name }),
      name: `template ${name} (${count(n, 'page')})`,
    })),
    ...pages.map((p) => ({ value: scopeText({ kind: 'page', page: p.page }), name: p.title || p.page })),
  ];
  if (out.some((o) => o.value === chosen)) return out;
  const scope = parseScope(chosen);
  const name = scope.kind === 'page' ? scope.page : scope.kind === 'template' ? scope.template : chosen;
  return [...out, { value: chosen, name: `${name} (not in this sweep)` }];
}
