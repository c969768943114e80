import { applyFixes } from '../../src/core/fixes/applyFixes';
import type { Perturbation } from '../../src/core/load/browser';
import type { LoadGraph } from '../../src/core/load/graph';
import { quantile } from '../../src/core/load/range';
import { simulate } from '../../src/core/load/simulate';
import type { Judged } from './compare';
import { LINKS, linkName, type TruthLink } from './site';
import type { Sample } from './store';
import { fixFor } from './variants';

/** The link on which a page was measured a second time, slowly; the factors found there are used on the others. */
const ANCHOR: TruthLink['id'] = 'middling';
const anchorLink = LINKS.find((l) => l.id === ANCHOR) as TruthLink;
/** Factors of one page that are tried: on its work on the processor, and on the waits of its servers. */
const CPU = [0.6, 0.75, 0.87, 1, 1.15, 1.35, 1.6, 2];
const SERVER = [0.5, 0.75, 1, 1.3, 1.7, 2.2];
const EVEN: Perturbation = { rtt: 1, rate: 1, cpu: 1, server: 1, seed: 0 };
/** What leaving 1 by a factor of e counts, as a share of error: without a gain factors stay at 1. */
const LEAVING_ONE = 0.05;

/** What is compared: an error with the recording alone, and with factors from a second one. */
interface Errors {
  readonly what: string;
  readonly held: boolean;
  readonly atAnchor: boolean;
  readonly alone: number;
  readonly anchored: number;
}

/**
 * What a second, slow recording of each page would win: its measured base on one link stands for that recording, two
 * factors are fitted to it, and the other links and all changes are forecast with them.
 */
export function anchorsSection(pages: readonly Judged[]): string {
  const errors = pages.flatMap(errorsOf);
  const rows = ['base', 'change'].flatMap((what) =>
    [true, false].map((atAnchor) => {
      const own = errors.filter((e) => e.what === what && e.atAnchor === atAnchor);
      const cells = [false, true].flatMap((held) => {
        const set = own.filter((e) => e.held === held);
        return [spread(set.map((e) => e.alone)), spread(set.map((e) => e.anchored))];
      });
      return `| ${what === 'base' ? 'Page as it is' : 'Change by fixes'}, ${atAnchor ? 'on the link of the second recording' : 'on the other two'} | ${cells.join(' | ')} |`;
    }),
  );
  return `The measured base of each page over ${linkName(anchorLink)} stands for a second recording of it. One
factor on all work of the processor (${CPU[0]} to ${CPU.at(-1)}) and one on the waits of servers (${SERVER[0]} to ${SERVER.at(-1)}) are fitted to it, and
used on every link. Median error and 90 %, as shares of the measured base; FCP and LCP count alike.

| What | Fitted pages, one recording | with a second | Pages held back, one recording | with a second |
| --- | --- | --- | --- | --- |
${rows.join('\n')}`;
}

function errorsOf({ audit, truth, held }: Judged): Errors[] {
  const [base, ...variants] = truth.variants;
  const anchor = base?.links[ANCHOR];
  if (!anchor) return [];
  const { graph } = audit;
  const factors = factorsFor(graph, anchor);
  const fixed = variants.map((v) =>
    applyFixes(
      graph,
      v.fixes.map((f) => fixFor(audit, f)),
    ),
  );
  return LINKS.flatMap((link) => {
    const measured = base.links[link.id];
    if (!measured) return [];
    const times = (g: LoadGraph) => [EVEN, factors].map((p) => simulate(g, link, p).milestones);
    const [alone, anchored] = times(graph);
    return (['fcpMs', 'lcpMs'] as const).flatMap((metric) => {
      const error = (what: string, one: number, two: number): Errors => ({
        what,
        held,
        atAnchor: link.id === ANCHOR,
        alone: Math.abs(one) / measured[metric],
        anchored: Math.abs(two) / measured[metric],
      });
      const before = [alone?.[metric] ?? 0, anchored?.[metric] ?? 0] as const;
      return [
        error('base', before[0] - measured[metric], before[1] - measured[metric]),
        ...variants.flatMap((v, i) => {
          const after = v.links[link.id];
          if (!after) return [];
          const [one, two] = times(fixed[i] as LoadGraph);
          const change = after[metric] - measured[metric];
          return [
            error('change', (one?.[metric] ?? 0) - before[0] - change, (two?.[metric] ?? 0) - before[1] - change),
          ];
        }),
      ];
    });
  });
}

/** The factors with which a page is simulated as it was measured, or near to it. */
function factorsFor(graph: LoadGraph, measured: Sample): Perturbation {
  let best = EVEN;
  let least = Infinity;
  for (const cpu of CPU)
    for (const server of SERVER) {
      const factors = { ...EVEN, cpu, server };
      const m = simulate(graph, anchorLink, factors).milestones;
      const off = (metric: 'fcpMs' | 'lcpMs' | 'loadMs') => Math.abs(m[metric] / measured[metric] - 1);
      const left = LEAVING_ONE * (Math.abs(Math.log(cpu)) + Math.abs(Math.log(server)));
      const error = off('fcpMs') + off('lcpMs') + off('loadMs') / 2 + left;
      if (error >= least) continue;
      least = error;
      best = factors;
    }
  return best;
}

function spread(errors: readonly number[]): string {
  const sorted = [...errors].sort((a, b) => a - b);
  const percent = (q: number) => `${(100 * quantile(sorted, q)).toFixed(1)} %`;
  return sorted.length === 0 ? '–' : `${percent(0.5)}, ${percent(0.9)}`;
}
