import { endOfWork, type Load, type Work } from '../capture/capture';
import type { Page } from '../source/page';
import type { Callback } from './callbacks';
import type { ScriptDraft } from './drafts';
import { ESTIMATED_WORK } from './estimates';
import type { Discovery, ScriptNode } from './graph';
import { moduleImports, neededBy, neededByInline } from './modules';
import { writerOf } from './written';

/** The scripts of a page: those of the markup in their order, then what others inserted or imported. */
export function listScripts(page: Page, byteAt: (n: number) => number): ScriptDraft[] {
  const { capture } = page;
  const factor = Math.max(0.1, capture.conditions.cpuFactor);
  const work = capture.observations?.work?.filter((w) => w.kind === 'script' && w.phase !== 'later');
  const spent = (match: (w: Work) => boolean) => {
    const own = work?.filter(match) ?? [];
    return {
      ms: own.reduce((sum, w) => sum + w.durationMs, 0) / factor,
      endMs: own.reduce((max, w) => Math.max(max, endOfWork(w)), 0) || undefined,
    };
  };
  // Of several runs the lower middle one: what a busy machine adds is no work of the script.
  const ofRuns = (load: Load | undefined, own: { ms: number; endMs?: number }) => {
    const all = [
      own.ms,
      ...(load?.otherRuns ?? []).flatMap((r) => (r.scriptMs === undefined ? [] : [r.scriptMs / factor])),
    ];
    all.sort((a, b) => a - b);
    return { ...own, ms: all[Math.floor((all.length - 1) / 2)] ?? own.ms };
  };
  const estimate = (load: Load | undefined) => (load?.decodedBytes ?? 0) * ESTIMATED_WORK.scriptPerByte;
  const out: ScriptDraft[] = [];
  /** Load of the code of each script; undefined for an inline one. */
  const files: (Load | undefined)[] = [];
  const modules = new Set<number>();
  const used = new Set<number>();
  for (const script of page.scripts) {
    const first = script.url
      ? capture.loads.find(
          (l) => l.kind === 'script' && page.mentionsOf(l.url).some((m) => m.element === script.element),
        )
      : undefined;
    if (script.url && !first) continue;
    const last = first && page.loadOf(first.url);
    if (first) used.add(first.index);
    if (last) used.add(last.index);
    const endLine = script.element.line + (script.element.text?.split('\n').length ?? 1);
    const { ms, endMs } = first
      ? ofRuns(
          last,
          spent((w) => w.url === last?.url),
        )
      : spent(
          (w) => w.url === capture.page && w.line !== undefined && w.line >= script.element.line && w.line <= endLine,
        );
    if (script.element.attributes.get('type')?.trim().toLowerCase() === 'module') modules.add(out.length);
    files.push(last);
    out.push({
      fetch: first?.index ?? -1,
      mode: script.mode,
      offset: byteAt(script.mode === 'inline' ? script.element.end : script.element.startTagEnd),
      inHead: script.element.inHead,
      ...(script.holdsPaint && { holdsPaint: true }),
      runMs: work ? ms : first ? estimate(last) : 0.3,
      url: last?.url ?? script.url,
      line: script.element.line,
      endMs,
    });
  }
  for (const load of capture.loads) {
    if (load.kind !== 'script' || used.has(load.index) || load.redirectTo) continue;
    const { ms, endMs } = ofRuns(
      load,
      spent((w) => w.url === load.url),
    );
    const first = capture.loads.find((l) => l.redirectTo === load.url && l.kind === 'script');
    files.push(load);
    const writer = out[writerOf(page, out, load)];
    out.push({
      fetch: first?.index ?? load.index,
      mode: writer ? 'sync' : 'dynamic',
      offset: writer?.offset ?? -1,
      inHead: writer?.inHead ?? false,
      runMs: work ? ms : estimate(load),
      url: load.url,
      endMs,
    });
  }
  return withModules(page, out, files, modules);
}

/** Modules with what they import, and with their runs, which recordings do not name. */
function withModules(
  page: Page,
  scripts: readonly ScriptDraft[],
  files: readonly (Load | undefined)[],
  marked: ReadonlySet<number>,
): ScriptDraft[] {
  const imports = moduleImports(page);
  if (imports.size === 0 && marked.size === 0) return [...scripts];
  const scriptOfLoad = new Map(files.flatMap((file, id) => (file ? [[file.index, id] as const] : [])));
  const needs = scripts.map((s, id) => {
    const file = files[id];
    const loads = file ? neededBy(file.index, imports) : marked.has(id) ? neededByInline(page, s.line, imports) : [];
    return loads.flatMap((load) => scriptOfLoad.get(load) ?? []);
  });
  const imported = new Set(needs.flat());
  const runs = unnamedRuns(page);
  const isModule = (id: number) => marked.has(id) || imports.has(files[id]?.index ?? -1) || imported.has(id);
  const hereMs = (id: number) => Math.max(0, ...[id, ...(needs[id] ?? [])].map((n) => files[n]?.endMs ?? 0));
  const taken = new Set<number>();
  const own = new Map<number, { ms: number; endMs: number }>();
  for (const run of runs) {
    const free = scripts.flatMap((s, id) =>
      !taken.has(id) && !imported.has(id) && s.runMs < run.ms && hereMs(id) <= run.startMs + 1 ? [id] : [],
    );
    // In the order of the document; what is imported by a call, when it has come.
    const next =
      free.find((id) => marked.has(id)) ??
      free.filter((id) => scripts[id]?.mode === 'dynamic').sort((a, b) => hereMs(b) - hereMs(a))[0];
    if (next === undefined) continue;
    taken.add(next);
    own.set(next, { ms: run.ms, endMs: run.endMs });
  }
  return scripts.map((s, id): ScriptDraft => {
    const run = own.get(id);
    return {
      ...s,
      ...(s.mode === 'dynamic' && imported.has(id) && { mode: 'import' as const }),
      ...(isModule(id) && (needs[id]?.length ?? 0) > 0 && { imports: needs[id] }),
      ...(run && { runMs: s.runMs + run.ms, endMs: run.endMs }),
    };
  });
}

/** Runs of modules: the recording has them without an address. Merged where they follow one another. */
function unnamedRuns(page: Page): { startMs: number; endMs: number; ms: number }[] {
  const { capture } = page;
  const factor = Math.max(0.1, capture.conditions.cpuFactor);
  // What comes much later is the recorder's own question to the page.
  const until = Math.max(capture.measured.loadMs ?? 0, ...capture.loads.map((l) => l.endMs)) + 1000;
  const out: { startMs: number; endMs: number; ms: number }[] = [];
  for (const w of capture.observations?.work ?? []) {
    if (w.kind !== 'script' || w.phase === 'later' || w.url !== undefined || w.startMs > until) continue;
    const last = out.at(-1);
    const endMs = endOfWork(w);
    if (last && w.startMs - last.endMs <= 2) {
      last.endMs = Math.max(last.endMs, endMs);
      last.ms += w.durationMs / factor;
    } else out.push({ startMs: w.startMs, endMs, ms: w.durationMs / factor });
  }
  return out.filter((r) => r.ms >= 0.5);
}

/** Scripts and, behind them, callbacks with their numbers. */
export function scriptNodes(scripts: readonly ScriptDraft[], callbacks: readonly Callback[]): ScriptNode[] {
  return [
    ...scripts.map((s, id) => ({ ...s, id })),
    ...callbacks.map((c, i) => ({
      id: scripts.length + i,
      fetch: -1,
      mode: 'callback' as const,
      offset: -1,
      inHead: false,
      runMs: c.runMs,
      after: c.after,
      of: c.of,
    })),
  ];
}

/**
 * The script or callback that built what is not in the source: the one that asked for its file, else the last one that
 * had ended when it was shown.
 */
export function scriptThatBuilt(
  discovery: Discovery | undefined,
  shownMs: number | undefined,
  scripts: readonly ScriptDraft[],
  callbacks: readonly Callback[],
): number {
  if (discovery?.by === 'script') return discovery.script;
  let last = -1;
  let lastMs = -1;
  const consider = (id: number, endMs: number) => {
    if (endMs < lastMs || (shownMs !== undefined && endMs > shownMs)) return;
    last = id;
    lastMs = endMs;
  };
  scripts.forEach((s, i) => {
    if (s.mode !== 'async' && s.mode !== 'import') consider(i, s.endMs ?? 0);
  });
  callbacks.forEach((c, i) => consider(scripts.length + i, c.endMs));
  return last;
}
