import type { PaintTimes } from '../../core/capture/capture';
import { pausesInAll } from './pauses';
import { round, type HarEntry, type HarPage } from './writeHar';

/**
 * Of several runs of a page the one that speaks for all, with what its loads and scripts took in the others. What holds a
 * recording up only adds: so it is the run whose hero was painted first, of those that show the hero that most of them
 * show and asked for about as much.
 */
export function mergeRuns(runs: readonly HarPage[]): HarPage {
  const [first] = runs;
  if (!first || runs.length === 1) return first as HarPage;
  const usual = mostFrequent(runs.map((r) => r.hero));
  const alike = asWhole(runs).filter((r) => r.hero === usual);
  const speaks = (alike.length > 0 ? alike : runs).reduce((a, b) =>
    (b.lcpMs ?? Infinity) < (a.lcpMs ?? Infinity) ? b : a,
  );
  return withScripts(
    withOtherRuns(
      speaks,
      runs.filter((r) => r !== speaks),
    ),
    runs.find((r) => r.scripts)?.scripts,
  );
}

/** A run with what another one of them told of the scripts. */
function withScripts(run: HarPage, scripts: HarPage['scripts']): HarPage {
  const { observations } = run.page._lens;
  if (!scripts || !observations) return run;
  return {
    ...run,
    scripts,
    page: { ...run.page, _lens: { ...run.page._lens, observations: { ...observations, scripts } } },
  };
}

/**
 * The runs that lack at most one, or a tenth, of the addresses that half of the runs asked for, queries apart. What only
 * one of them asked for (the icon of a site, which the browser keeps then) tells nothing of the others.
 */
function asWhole(runs: readonly HarPage[]): HarPage[] {
  const places = runs.map((r) => new Set(r.entries.map((e) => e.request.url.replace(/[?#].*$/, ''))));
  const inHalf = (place: string) => 2 * places.filter((p) => p.has(place)).length >= runs.length;
  const usual = [...new Set(places.flatMap((p) => [...p]))].filter(inHalf);
  const lacking = (own: ReadonlySet<string> | undefined) => usual.filter((place) => !own?.has(place)).length;
  return runs.filter((_, i) => lacking(places[i]) <= Math.max(1, 0.1 * usual.length));
}

function mostFrequent(names: readonly (string | undefined)[]): string | undefined {
  const count = (name: string | undefined) => names.filter((n) => n === name).length;
  return names.reduce((a, b) => (count(b) > count(a) ? b : a), names[0]);
}

/** One run with what each of its loads took in the others: the first request of an address answers to the first, and so on. */
function withOtherRuns(run: HarPage, others: readonly HarPage[]): HarPage {
  const lists = others.map((other) => ({ other, entries: byAddress(other.entries) }));
  const seen = new Map<string, number>();
  return {
    ...run,
    page: {
      ...run.page,
      _lens: { ...run.page._lens, otherRuns: others.map(paintTimes) },
    },
    entries: run.entries.map((entry) => {
      const { url } = entry.request;
      const nth = seen.get(url) ?? 0;
      seen.set(url, nth + 1);
      const same = lists.flatMap(({ other, entries }) => {
        const twin = entries.get(url)?.[nth];
        return twin ? [{ twin, scriptMs: other.scriptMs.get(url) }] : [];
      });
      const otherRuns = same.map(({ twin, scriptMs }) => runTimes(twin.timings, scriptMs));
      const pauses = pausesInAll(
        entry._lens.pauses,
        same.map(({ twin }) => twin._lens.pauses),
      );
      return { ...entry, _lens: { ...entry._lens, otherRuns, pauses } };
    }),
  };
}

function byAddress(entries: readonly HarEntry[]): Map<string, HarEntry[]> {
  const out = new Map<string, HarEntry[]>();
  for (const entry of entries) out.set(entry.request.url, [...(out.get(entry.request.url) ?? []), entry]);
  return out;
}

const paintTimes = ({ fcpMs, lcpMs, fcpPaintMs, lcpPaintMs }: HarPage): PaintTimes => ({
  fcpMs,
  lcpMs,
  fcpPaintMs,
  lcpPaintMs,
});

/** HAR 1.2: connect includes ssl, and -1 says that there was none. */
function runTimes({ connect, ssl, wait }: HarEntry['timings'], scriptMs: number | undefined): object {
  return {
    waitMs: wait,
    ...(connect >= 0 && { connectMs: round(connect - Math.max(0, ssl)) }),
    ...(ssl >= 0 && { tlsMs: ssl }),
    ...(scriptMs !== undefined && { scriptMs: round(scriptMs) }),
  };
}
