import { InputError, PageError } from '../../core/capture/errors';
import type { Link } from '../../core/load/graph';
import { RUNS, saysEnough } from '../../core/proof/proof';
import { firstLine } from '../record/browser';
import type { Answer, ReplayHost } from './messages';
import { Stage, type ProofLink, type Screen } from './stage';
import type { Frame, ReplayVisit } from './visit';

/** A page as it answers without and with fixes, and how to visit it; plain values, so that another machine can do it. */
export interface ReplayPlan {
  readonly hosts: readonly ReplayHost[];
  readonly link: Link;
  /** The stronger one that the machine has if not stated. */
  readonly way?: ProofLink;
  readonly lookups: boolean;
  readonly base: readonly Answer[];
  readonly fixed: readonly Answer[];
  /** Address of the page, as it was asked for, and as it is called. */
  readonly url: string;
  readonly page: string;
  readonly screen: Screen;
  /** The page's clock starts at this moment, in ms since 1970. */
  readonly clockMs: number;
  /** So many of each side; undefined: from three on until they say enough. */
  readonly runs?: number;
  /** Also film one visit of each side. */
  readonly film: boolean;
}

/** What the visits of a replay measured. */
export interface ReplayRuns {
  readonly browser: string;
  readonly way: ProofLink;
  /** The visit before the others: its figures do not count, its first screen does. */
  readonly warm: ReplayVisit;
  readonly before: readonly ReplayVisit[];
  readonly after: readonly ReplayVisit[];
  readonly film: { readonly before: readonly Frame[]; readonly after: readonly Frame[] };
  readonly unanswered: readonly string[];
  /** What the replay does otherwise than the recording, in plain words. */
  readonly differs: readonly string[];
}

export interface ProofProgress {
  readonly done: number;
  /** As it looks now. */
  readonly total: number;
  readonly leftMs?: number;
  readonly text: string;
}

interface ReplayOptions {
  readonly signal?: AbortSignal;
  readonly onProgress?: (progress: ProofProgress) => void;
}

/** Where runs do not agree it is given up after this time, in ms: the interval says how far they lie apart. */
const PATIENCE_MS = 80_000;

/**
 * Loads a page in a real browser over a visitor's link, without and with fixes in turn, each time with a new profile, from
 * servers that answer as recorded. Nothing leaves this machine.
 * @throws PageError when the browser or the replay fails, or the page shows nothing; the reason of the signal
 */
export async function runReplay(plan: ReplayPlan, options: ReplayOptions): Promise<ReplayRuns> {
  const { signal } = options;
  let stage: Stage | undefined;
  try {
    stage = await Stage.open({ ...plan, signal });
    return await visitBoth(stage, plan, options);
  } catch (error) {
    signal?.throwIfAborted();
    if (error instanceof InputError) throw error;
    throw new PageError(
      `The proof broke off: ${firstLine(error)}`,
      plan.page,
      'Try once more, with fewer fixes or --link userspace.',
    );
  } finally {
    stage?.close();
  }
}

async function visitBoth(stage: Stage, plan: ReplayPlan, { signal, onProgress }: ReplayOptions): Promise<ReplayRuns> {
  const { runs } = plan;
  const differs = new Set(stage.notes);
  const unanswered = new Set<string>();
  const visit = async (answers: readonly Answer[], more: { screenshot?: boolean; film?: boolean }) => {
    const { screen, clockMs } = plan;
    const made = await stage.visit(answers, plan.url, { screen, clockMs, signal, ...more });
    for (const url of [...made.report.unanswered, ...made.visit.unreachable]) unanswered.add(url);
    for (const { asked, as } of made.report.likened.slice(0, 20)) differs.add(`${asked} was answered as ${as}.`);
    return made.visit;
  };
  const before: ReplayVisit[] = [];
  const after: ReplayVisit[] = [];
  const most = runs ?? RUNS.most;
  const started = Date.now();
  const films = plan.film ? 2 : 0;
  const total = () => 2 * Math.max(runs ?? RUNS.planned, Math.min(before.length + 1, most)) + 1 + films;
  let done = 0;
  const step = async (
    text: string,
    answers: readonly Answer[],
    more: { screenshot?: boolean; film?: boolean } = {},
  ) => {
    const leftMs = done > 1 ? ((Date.now() - started) / done) * (total() - done) : undefined;
    onProgress?.({ done, total: total(), leftMs, text });
    const made = await visit(answers, more);
    done++;
    return made;
  };
  // The first visit of a browser is slower than the rest; of two screens without fixes one is compared with the other.
  const warm = await step('warming up', plan.base, { screenshot: true });
  if (warm.fcpMs < 0)
    throw new PageError(
      'The replayed page shows nothing: the capture lacks what it needs.',
      plan.page,
      unanswered.size > 0
        ? `Not captured: ${[...unanswered].slice(0, 3).join(', ')}. Record it anew.`
        : 'Record it anew.',
    );
  while (before.length < most) {
    const screenshot = before.length === 0;
    const run = () => `run ${before.length + after.length + 1} of ${runs ? '' : 'about '}${total() - 1 - films}`;
    before.push(await step(run(), plan.base, { screenshot }));
    after.push(await step(run(), plan.fixed, { screenshot }));
    const late = before.length >= RUNS.planned && Date.now() - started > PATIENCE_MS;
    if (runs === undefined && (late || saysEnough(shown(before), shown(after)))) break;
  }
  const film = plan.film
    ? {
        before: (await step('filming the page as it is', plan.base, { film: true })).frames,
        after: (await step('filming it with the fixes', plan.fixed, { film: true })).frames,
      }
    : { before: [], after: [] };
  return {
    browser: stage.browserName,
    way: stage.way,
    warm,
    before,
    after,
    film,
    unanswered: [...unanswered],
    differs: [...differs],
  };
}

/** Visits that came to show something; all of them when none did. */
export function shown(visits: readonly ReplayVisit[]): readonly ReplayVisit[] {
  const good = visits.filter((v) => v.lcpMs >= 0);
  return good.length > 0 ? good : visits;
}
