import { fileName } from '../../../core/capture/url';
import { fileOfScript, type LoadGraph } from '../../../core/load/graph';
import type { Replay } from '../../../core/load/replay';
import { ms } from '../../ui/format';

/** One step of what the hero waits for, in time order, with its reason in words. */
export interface JourneyStep {
  /** As in a row of the story; `paint` for the last step. */
  readonly key: string;
  readonly name: string;
  readonly fromMs: number;
  readonly toMs: number;
  /** Between the end of the step before and the start of this one. */
  readonly waitedMs: number;
  readonly text: string;
}

/** Waiting that is worth a word, in ms. */
const WORTH_SAYING = 20;

/** The steps from the navigation to the hero's paint; a pure function of a simulation. */
export function journey(graph: LoadGraph, replay: Pick<Replay, 'path' | 'fetches'>): JourneyStep[] {
  const steps = [...replay.path].sort((a, b) => a.fromMs - b.fromMs || a.toMs - b.toMs);
  let at = 0;
  return steps.map((step) => {
    const waitedMs = Math.max(0, step.fromMs - at);
    at = Math.max(at, step.toMs);
    const waited = waitedMs >= WORTH_SAYING ? `waited ${ms(waitedMs)}: ` : '';
    if (step.kind === 'paint')
      return {
        key: 'paint',
        name: 'hero paint (LCP)',
        fromMs: step.fromMs,
        toMs: step.toMs,
        waitedMs,
        text: `${waited}${step.why}; ${ms(Math.max(0, step.toMs - step.fromMs))} until it is on the screen.`,
      };
    if (step.kind === 'script') {
      const fetch = fileOfScript(graph, step.id);
      const name = fetch >= 0 ? fileName(graph.fetches[fetch]?.url ?? '') : 'inline script';
      return {
        key: `s${step.id}`,
        name: `run ${name}`,
        fromMs: step.fromMs,
        toMs: step.toMs,
        waitedMs,
        text: `${waited}${step.why}; it ran for ${ms(step.toMs - step.fromMs)}.`,
      };
    }
    const t = replay.fetches[step.id];
    const parts = t
      ? [
          [t.sentMs - t.foundMs, 'until it was requested'],
          [t.firstByteMs - t.sentMs, 'for connection and server'],
          [t.endMs - t.firstByteMs, 'arriving'],
        ]
      : [];
    const spent = parts
      .filter((p): p is [number, string] => (p[0] as number) >= WORTH_SAYING)
      .map(([n, what]) => `${ms(n)} ${what}`)
      .join(', ');
    return {
      key: `f${step.id}`,
      name: fileName(graph.fetches[step.id]?.url ?? ''),
      fromMs: step.fromMs,
      toMs: step.toMs,
      waitedMs,
      text: `${waited}${step.why}${spent ? `; ${spent}` : ''}.`,
    };
  });
}

/** A load that ran in a span of time. */
export interface SpanLoad {
  readonly id: number;
  readonly name: string;
  readonly url: string;
  readonly fromMs: number;
  readonly toMs: number;
  readonly bytes: number;
  readonly why: string;
}

/** Loads that were asked for or arriving at any time of a span, in the order in which they were found. */
export function loadsInSpan(graph: LoadGraph, replay: Pick<Replay, 'fetches'>, from: number, to: number): SpanLoad[] {
  return graph.fetches
    .flatMap((f) => {
      const t = replay.fetches[f.id];
      if (!t || t.foundMs < 0 || f.refused || t.foundMs > to || t.endMs < from) return [];
      return [
        {
          id: f.id,
          name: fileName(f.url),
          url: f.url,
          fromMs: t.foundMs,
          toMs: t.endMs,
          bytes: f.headerBytes + f.bodyBytes,
          why: CAUSE_WORDS[t.cause.kind],
        },
      ];
    })
    .sort((a, b) => a.fromMs - b.fromMs || a.id - b.id);
}

const CAUSE_WORDS = {
  navigation: 'requested by the visitor',
  document: 'named in the page source',
  style: 'named in a stylesheet',
  script: 'requested by a script',
  layout: 'requested after layout',
  event: 'requested when the page was ready',
  fetch: 'requested by another load',
} as const;

/** A span zoomed by a factor around its middle, kept inside the whole. */
export function zoomed(
  [from, to]: readonly [number, number],
  factor: number,
  until: number,
  middle = (from + to) / 2,
): [number, number] {
  const half = Math.min(until, Math.max(40, (to - from) * factor)) / 2;
  const start = Math.max(0, Math.min(middle - half, until - 2 * half));
  return [start, Math.min(until, start + 2 * half)];
}
