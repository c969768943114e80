import { parseScope, scopeText, type Scope } from '../../core/plan/plan';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { count } from '../ui/format';

/** For which pages the bench is calculated: all of the sweep, those of a template, or one. */
export function ScopePick() {
  const bench = useBench();
  const { path } = useLocation();
  const open = Number(/\/pages\/(\d+)$/.exec(path)?.[1]);
  const here = bench.pages.find((p) => p.captureId === open);
  const options = scopeOptions(bench.pages, bench.scope, here?.captureId);
  return (
    <select
      className="scope"
      aria-label="Pages that the bench is about"
      value={scopeText(bench.scope)}
      onChange={(e) => bench.setScope(parseScope(e.target.value))}
    >
      {options.map((o) => (
        <option key={scopeText(o.scope)} value={scopeText(o.scope)}>
          {o.name}
        </option>
      ))}
    </select>
  );
}

interface ScopePage {
  readonly captureId: number;
  readonly title: string;
  readonly page: string;
  readonly template?: { readonly id: string; readonly name: string };
}

/** The scopes to choose from: all, templates of several pages, the page at hand and the one that is chosen. */
export function scopeOptions(
  pages: readonly ScopePage[],
  chosen: Scope,
  here: number | undefined,
): { scope: Scope; name: string }[] {
  const templates = new Map<string, { name: string; pages: number }>();
  for (const { template } of pages)
    if (template)
      templates.set(template.id, { name: template.name, pages: (templates.get(template.id)?.pages ?? 0) + 1 });
  const single = pages.filter((p) => p.captureId === here || (chosen.kind === 'page' && chosen.page === p.page));
  return [
    { scope: { kind: 'all' }, name: `all ${count(pages.length, 'page')}` },
    ...[...templates]
      .filter(([id, t]) => t.pages > 1 || (chosen.kind === 'template' && chosen.template === id))
      .map(([id, t]) => ({
        scope: { kind: 'template' as const, template: id },
        name: `${count(t.pages, 'page')} of the template ${t.name}`,
      })),
    ...single.map((p) => ({
      scope: { kind: 'page' as const, page: p.page },
      name: p.captureId === here ? `this page only: ${p.title}` : `one page: ${p.title}`,
    })),
  ];
}
