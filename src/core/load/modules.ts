import { parse } from 'es-module-lexer/js';
import type { Page } from '../source/page';

/** Static imports of the modules of a page: load of a module to the loads it imports, in order. */
export type ModuleImports = ReadonlyMap<number, readonly number[]>;

/**
 * Reads which modules import which, from their sources (HTML, 8.1.6.2 "fetch the descendants of a module script").
 * Bare names are looked up in the page's import map (HTML, 8.1.6.3). A file that is no module, or cannot be read, has no
 * imports.
 */
export function moduleImports(page: Page): ModuleImports {
  const out = new Map<number, readonly number[]>();
  const map = importMap(page);
  for (const load of page.capture.loads) {
    if (load.kind !== 'script' || load.redirectTo) continue;
    const text = page.bodies.text(load);
    // Most scripts are no modules: the cheap question first.
    if (!text || !/\bimport\s*["'{*\w]|\bfrom\s*["']/.test(text)) continue;
    const own = importsOf(text).flatMap((name) => {
      const url = resolve(name, load.url, map, page);
      const target = url === undefined ? undefined : page.loadOf(url);
      return target && target.kind === 'script' && target.index !== load.index ? [target.index] : [];
    });
    if (own.length > 0) out.set(load.index, [...new Set(own)]);
  }
  return out;
}

/** All modules that a module needs before it runs, itself not among them; those that run first come first. */
export function neededBy(module: number, imports: ModuleImports): number[] {
  const out: number[] = [];
  const seen = new Set([module]);
  const visit = (at: number) => {
    for (const next of imports.get(at) ?? []) {
      if (seen.has(next)) continue;
      seen.add(next);
      visit(next);
      out.push(next);
    }
  };
  visit(module);
  return out;
}

/** What an inline module that begins on a line needs. */
export function neededByInline(page: Page, line: number | undefined, imports: ModuleImports): number[] {
  const element = page.scripts.find((s) => s.url === undefined && s.element.line === line)?.element;
  const map = importMap(page);
  const out: number[] = [];
  for (const name of importsOf(element?.text ?? '')) {
    const url = resolve(name, page.document?.baseUrl ?? page.capture.page, map, page);
    const target = url === undefined ? undefined : page.loadOf(url);
    if (!target || out.includes(target.index)) continue;
    for (const need of [...neededBy(target.index, imports), target.index]) if (!out.includes(need)) out.push(need);
  }
  return out;
}

function importsOf(text: string): string[] {
  try {
    return parse(text)[0].flatMap((i) => (i.type === 'static' || i.type === 'reexport-star' ? [i.specifier] : []));
  } catch {
    return [];
  }
}

type ImportMap = Readonly<Record<string, string>>;

function importMap(page: Page): ImportMap {
  const element = page.document?.elements.find(
    (e) => e.tag === 'script' && e.attributes.get('type')?.trim().toLowerCase() === 'importmap',
  );
  try {
    const { imports } = JSON.parse(element?.text ?? '{}') as { imports?: unknown };
    if (typeof imports !== 'object' || imports === null) return {};
    return Object.fromEntries(Object.entries(imports).filter((e): e is [string, string] => typeof e[1] === 'string'));
  } catch {
    return {};
  }
}

function resolve(name: string, from: string, map: ImportMap, page: Page): string | undefined {
  const base = page.document?.baseUrl ?? page.capture.page;
  if (Object.hasOwn(map, name)) return absolute(map[name] as string, base);
  const prefix = Object.keys(map)
    .filter((key) => key.endsWith('/') && name.startsWith(key))
    .sort((a, b) => b.length - a.length)[0];
  if (prefix !== undefined) return absolute((map[prefix] as string) + name.slice(prefix.length), base);
  return /^(?:\.{0,2}\/|[a-z][a-z\d+.-]*:)/i.test(name) ? absolute(name, from) : undefined;
}

const absolute = (address: string, base: string) =>
  URL.canParse(address, base) ? new URL(address, base).href : undefined;
