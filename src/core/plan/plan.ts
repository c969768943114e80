/** How far somebody has come with a fix of a plan. */
export type FixState = 'open' | 'started' | 'done' | 'dropped';

/** States in the order in which a fix goes through them, with their words. */
export const FIX_STATES: readonly { readonly id: FixState; readonly name: string }[] = [
  { id: 'open', name: 'to do' },
  { id: 'started', name: 'started' },
  { id: 'done', name: 'done' },
  { id: 'dropped', name: 'will not do' },
];

/** One fix of a plan: which, and who does it until when. */
export interface PlanFix {
  /** Id of the group of fixes (`groupFixes`): the same from sweep to sweep. */
  readonly group: string;
  /** What it was called when it was put in. */
  readonly title: string;
  readonly owner: string;
  /** YYYY-MM-DD; empty for none. */
  readonly due: string;
  readonly state: FixState;
}

/** Which pages a bench is about: all of a sweep, those of a template, or one. */
export type Scope =
  | { readonly kind: 'all' }
  | { readonly kind: 'template'; readonly template: string }
  | { readonly kind: 'page'; readonly page: string };

/** A scope as it stands in addresses: empty for all pages, `template:NAME` or `page:URL`. */
export function scopeText(scope: Scope): string {
  if (scope.kind === 'all') return '';
  return scope.kind === 'template' ? `template:${scope.template}` : `page:${scope.page}`;
}

/** Reads a scope; what is not understood is about all pages. */
export function parseScope(text: string | null | undefined): Scope {
  const [, kind, value] = /^(template|page):(.+)$/.exec(text ?? '') ?? [];
  if (!kind || !value) return { kind: 'all' };
  return kind === 'template' ? { kind, template: value } : { kind: 'page', page: value };
}

/** The pages of a scope. */
export function pagesIn<P extends { readonly page: string; readonly template?: string }>(
  pages: readonly P[],
  scope: Scope,
): readonly P[] {
  if (scope.kind === 'all') return pages;
  return pages.filter((p) => (scope.kind === 'page' ? p.page === scope.page : p.template === scope.template));
}

/** A bench that was saved. */
export interface Plan {
  readonly id: number;
  readonly name: string;
  /** Id or spec of the visitor it was made for. */
  readonly visitor: string;
  /** As `scopeText` writes it. */
  readonly scope: string;
  readonly fixes: readonly PlanFix[];
  readonly createdAt: string;
  readonly updatedAt: string;
}
