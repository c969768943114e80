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
  const most = Math.max(...runs.map((r) => r.requests));
  const alike = runs.filter((r) => r.hero === usual && r.requests >= 0.9 * most);
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
      _lens: { ...run.page._lens, otherRuns: others.map(({ fcpMs, lcpMs }) => ({ fcpMs, lcpMs })) },
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

/** HAR 1.2: connect includes ssl, and -1 says that there was none. */
function runTimes({ connect, ssl, wait }: HarEntry['timings'], scriptMs: number | undefined): object {
  return {
    waitMs: wait,
    ...(connect >= 0 && { connectMs: round(connect - Math.max(0, ssl)) }),
    ...(ssl >= 0 && { tlsMs: ssl }),
    ...(scriptMs !== undefined && { scriptMs: round(scriptMs) }),
  };
}
