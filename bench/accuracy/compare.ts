import { bodiesInMemory, type Capture } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import { applyFixes } from '../../src/core/fixes/applyFixes';
import type { Range } from '../../src/core/load/range';
import { repeatVisit } from '../../src/core/load/repeatVisit';
import { simulate } from '../../src/core/load/simulate';
import { auditPage, NO_SIZES, type Audit } from '../../src/core/plan/audit';
import { changeOf, errorShareOf } from '../../src/core/plan/forecast';
import { readPage } from '../../src/core/source/page';
import { TRUTH_PAGES } from './pages';
import { LINKS, type TruthLink } from './site';
import { readCapture, readTruth, type PageTruth, type Sample } from './store';
import { fixFor } from './variants';

/** One variant on one link: what was measured and what was forecast, in ms. */
export interface Case {
  readonly page: string;
  readonly held: boolean;
  /** Added after the constants had been fitted; and written by nobody here. */
  readonly late: boolean;
  readonly outside: boolean;
  readonly link: TruthLink['id'];
  readonly variant: string;
  readonly kinds: readonly string[];
  /** True for fixes of more than one kind together. */
  readonly combined: boolean;
  readonly fcp: Figure;
  readonly lcp: Figure;
  readonly again?: Figure;
}

/** A metric before and after, measured and forecast. */
export interface Figure {
  readonly base: number;
  readonly change: number;
  /** Half the range of the runs of base and variant, the larger one. */
  readonly noise: number;
  readonly forecastBase: number;
  readonly forecast: number;
  readonly range?: Range;
}

/** The capture of a page, audited, and what was measured. */
export interface Judged {
  readonly held: boolean;
  readonly late: boolean;
  readonly outside: boolean;
  readonly audit: Audit;
  readonly truth: PageTruth;
}

/** Pages that have been measured, as far as they have. */
export function judgedPages(plain = false): Judged[] {
  return TRUTH_PAGES.flatMap((page) => {
    const truth = readTruth(page.name);
    if (!truth) return [];
    const [read] = readHar(readCapture(page.name));
    if (!read) return [];
    const bodies = bodiesInMemory(read.bodies);
    const capture = plain ? withoutWork(read.capture) : read.capture;
    return [
      {
        held: page.held,
        late: page.late ?? false,
        outside: page.outside ?? false,
        truth,
        audit: auditPage(readPage(capture, bodies), NO_SIZES),
      },
    ];
  });
}

/** A capture as a browser's own export gives it: no main-thread work, no boxes, no hero. */
function withoutWork(capture: Capture): Capture {
  return { ...capture, observations: undefined };
}

/** Forecasts every variant that was measured. */
export function compare(pages: readonly Judged[], ranges = false): Case[] {
  return pages.flatMap(({ held, late, outside, audit, truth }) => {
    const graph = audit.graph;
    const [base, ...variants] = truth.variants;
    return LINKS.flatMap((link) => {
      const before = base?.links[link.id];
      if (!before) return [];
      const now = simulate(graph, link).milestones;
      const nowAgain = before.again && simulate(repeatVisit(graph), link).milestones;
      return variants.flatMap((v): Case[] => {
        const after = v.links[link.id];
        if (!after) return [];
        const fixed = applyFixes(
          graph,
          v.fixes.map((f) => fixFor(audit, f)),
        );
        const made = changeOf(graph, fixed, link, errorShareOf(graph));
        const range = ranges ? made.range : undefined;
        const kinds = [...new Set(v.fixes.map((f) => f.kind))];
        return [
          {
            page: truth.page,
            held,
            late,
            outside,
            link: link.id,
            variant: v.name,
            kinds,
            combined: kinds.length > 1,
            fcp: figure(before, after, 'fcpMs', 'fcpNoise', now.fcpMs, made.change.fcpMs, range?.fcpMs),
            lcp: figure(before, after, 'lcpMs', 'lcpNoise', now.lcpMs, made.change.lcpMs, range?.lcpMs),
            ...(before.again && after.again && nowAgain
              ? {
                  again: {
                    base: before.again.lcpMs,
                    change: after.again.lcpMs - before.again.lcpMs,
                    noise: before.lcpNoise,
                    forecastBase: nowAgain.lcpMs,
                    forecast: simulate(repeatVisit(fixed), link).milestones.lcpMs - nowAgain.lcpMs,
                  },
                }
              : {}),
          },
        ];
      });
    });
  });
}

function figure(
  before: Sample,
  after: Sample,
  metric: 'fcpMs' | 'lcpMs',
  noise: 'fcpNoise' | 'lcpNoise',
  now: number,
  change: number,
  range: Range | undefined,
): Figure {
  return {
    base: before[metric],
    change: after[metric] - before[metric],
    noise: Math.max(before[noise], after[noise]),
    forecastBase: now,
    forecast: change,
    range,
  };
}
