import { quantile } from '../../src/core/load/range';
import type { ReplayResults, Replayed } from './replay';
import { LINKS, type TruthLink } from './site';
import { readTruth } from './store';

/** How far changes of two measurings of the same thing lie apart, as shares of the base. */
export interface Agreement {
  readonly name: string;
  readonly cases: number;
  readonly median: number;
  readonly p90: number;
  /** Of those that changed by more than 100 ms and the noise: share with the same sign. */
  readonly sign: number;
  readonly clear: number;
}

interface Pair {
  readonly base: number;
  readonly noise: number;
  readonly a: number;
  readonly b: number;
}

/** Replay against the original servers, for each way of making the link; and the two ways against each other. */
export function replayAgreement({ cases }: ReplayResults): Agreement[] {
  const metrics = ['fcpMs', 'lcpMs'] as const;
  const against = (way: Replayed['way']) =>
    cases
      .filter((c) => c.way === way)
      .flatMap((c) => {
        const truth = readTruth(c.page);
        const link = c.link as TruthLink['id'];
        const before = truth?.variants[0]?.links[link];
        const after = truth?.variants.find((v) => v.name === c.variant)?.links[link];
        if (!before || !after) return [];
        return metrics.map((m): Pair => {
          const noise =
            m === 'fcpMs' ? Math.max(before.fcpNoise, after.fcpNoise) : Math.max(before.lcpNoise, after.lcpNoise);
          return { base: before[m], noise, a: after[m] - before[m], b: c.change[m] };
        });
      });
  const bothWays = cases
    .filter((c) => c.way === 'namespaces')
    .flatMap((c) => {
      const other = cases.find(
        (o) => o.way === 'userspace' && o.page === c.page && o.link === c.link && o.variant === c.variant,
      );
      return other ? metrics.map((m): Pair => ({ base: c.base[m], noise: 0, a: c.change[m], b: other.change[m] })) : [];
    });
  const bases = (way: Replayed['way']) =>
    [...new Map(cases.filter((c) => c.way === way).map((c) => [`${c.page} ${c.link}`, c])).values()].flatMap((c) => {
      const before = readTruth(c.page)?.variants[0]?.links[c.link as TruthLink['id']];
      return before ? metrics.map((m): Pair => ({ base: before[m], noise: 0, a: before[m], b: c.base[m] })) : [];
    });
  return [
    agreement('changes: link of the system against the original servers', against('namespaces')),
    agreement('changes: link in user space against the original servers', against('userspace')),
    agreement('changes: link in user space against link of the system', bothWays),
    agreement('without fixes: link of the system against the original servers', bases('namespaces')),
    agreement('without fixes: link in user space against the original servers', bases('userspace')),
  ].filter((a) => a.cases > 0);
}

function agreement(name: string, pairs: readonly Pair[]): Agreement {
  const errors = pairs.map((p) => Math.abs(p.a - p.b) / p.base).sort((x, y) => x - y);
  const clear = pairs.filter((p) => Math.abs(p.a) > Math.max(100, p.noise));
  return {
    name,
    cases: pairs.length,
    median: quantile(errors, 0.5),
    p90: quantile(errors, 0.9),
    sign: clear.length === 0 ? 1 : clear.filter((p) => Math.sign(p.a) === Math.sign(p.b)).length / clear.length,
    clear: clear.length,
  };
}

const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

/** The section of docs/accuracy.md. */
export function replaySection(results: ReplayResults | undefined): string {
  if (!results) return 'Not measured: `npm run bench:proof` does it.';
  const pages = new Set(results.cases.map((c) => c.page)).size;
  return `The captures of the truth set (with the bodies that the repository leaves out) replayed by \`npm run bench:proof\`
(${results.measuredOn}): ${pages} pages, each on one of the ${LINKS.length} links, two variants each, the median of three
runs. FCP and LCP count alike. The truth was measured on other days, on the servers of the pages themselves.

| What is compared | Cases | Median difference | 90 % within | Same sign |
| --- | --- | --- | --- | --- |
${replayAgreement(results)
  .map(
    (a) => `| ${a.name} | ${a.cases} | ${percent(a.median)} | ${percent(a.p90)} | ${percent(a.sign)} of ${a.clear} |`,
  )
  .join('\n')}`;
}
