import { InputError, PageError } from '../../core/capture/errors';
import type { Fix, OfferContext } from '../../core/fixes/fix';
import type { Visitor } from '../../core/load/visitors';
import type { LoadGraph } from '../../core/load/graph';
import { forecast } from '../../core/plan/forecast';
import {
  changeOfRuns,
  heldOf,
  RUNS,
  samplesOfRuns,
  saysEnough,
  type Held,
  type Promised,
  type Samples,
} from '../../core/proof/proof';
import { VERSION } from '../../core/version';
import { editedSite } from '../imaging/editedSite';
import { similarityOf } from '../imaging/similarity';
import { firstLine } from '../record/browser';
import { editedAnswers, hostsOf, recordedAnswers, type Levels } from '../replay/answers';
import type { Answer } from '../replay/messages';
import { Stage, type ProofLink } from '../replay/stage';
import type { Frame, ReplayVisit } from '../replay/visit';

/** What to prove, and how. */
export interface ProveOptions {
  readonly visitor: Visitor;
  readonly fixes: readonly Fix[];
  /** So many of each side; undefined: from three on until they say enough. */
  readonly runs?: number;
  /** The stronger one that this machine has if not stated. */
  readonly link?: ProofLink;
  /** Also film one visit of each side. */
  readonly film?: boolean;
  readonly onProgress?: (progress: ProofProgress) => void;
  readonly signal?: AbortSignal;
}

export interface ProofProgress {
  readonly done: number;
  /** As it looks now. */
  readonly total: number;
  readonly leftMs?: number;
  readonly text: string;
}

/** A forecast, and what a real browser measured. */
export interface Proof {
  readonly version: string;
  readonly browser: string;
  readonly provedAt: string;
  readonly page: string;
  readonly visitor: string;
  readonly link: ProofLink;
  /** Of each side. */
  readonly runs: number;
  readonly fixes: readonly { readonly id: string; readonly kind: string; readonly target: string }[];
  readonly before: Samples;
  readonly after: Samples;
  readonly change: Samples;
  readonly forecast: Promised;
  readonly held: Held;
  /** Element or file of the largest paint. */
  readonly hero: { readonly before: string; readonly after: string };
  /** Similarity of the first screens, 0 to 1; and of two first screens without fixes. */
  readonly firstScreenAlike: number;
  readonly firstScreenItself: number;
  readonly unanswered: readonly string[];
  readonly newErrors: readonly string[];
  /** What the replay does otherwise than the recording, in plain words. */
  readonly differs: readonly string[];
}

/** A captured page with the graph that forecasts come from. */
export type ProvedPage = OfferContext & { readonly graph: LoadGraph };

/** A proof with its pictures. */
export interface ProofWithPictures {
  readonly proof: Proof;
  readonly screens: { readonly before?: Buffer; readonly after?: Buffer };
  readonly film: { readonly before: readonly Frame[]; readonly after: readonly Frame[] };
}

/**
 * Proves fixes on a captured page: loads it in a real browser over a visitor's link, without and with them in turn, each
 * time with a new profile, from servers that answer as recorded. Nothing leaves this machine.
 * @throws PageError when the browser or the replay fails, or the page shows nothing; the reason of the signal
 */
export async function proveFixes(audit: ProvedPage, options: ProveOptions): Promise<ProofWithPictures> {
  const { visitor, fixes, signal } = options;
  const levels: Levels = new Map();
  const base = await recordedAnswers(audit, audit.graph, levels);
  const fixed = await editedAnswers(base, await editedSite(fixes, audit), levels);
  const hosts = hostsOf(audit, audit.graph, [...base.answers, ...fixed.answers]);
  const differs = new Set([...base.differs, ...fixed.differs]);
  if (!sameScreen(audit, visitor))
    differs.add("The screen is the recording's, not the visitor's: other pictures were never captured.");
  const { lookups } = audit.graph;
  let stage: Stage | undefined;
  try {
    stage = await Stage.open({ hosts, link: visitor, way: options.link, lookups, signal });
    for (const note of stage.notes) differs.add(note);
    return await proveOn(stage, audit, options, { base: base.answers, fixed: fixed.answers, differs });
  } catch (error) {
    signal?.throwIfAborted();
    if (error instanceof InputError) throw error;
    throw new PageError(
      `The proof broke off: ${firstLine(error)}`,
      audit.page.capture.page,
      'Try once more, with fewer fixes or --link userspace.',
    );
  } finally {
    stage?.close();
  }
}

const sameScreen = ({ page: { capture } }: ProvedPage, v: Visitor) =>
  capture.conditions.screenWidth === v.screenWidth && capture.conditions.density === v.density;

/** Where runs do not agree it is given up after this time, in ms: the interval says how far they lie apart. */
const PATIENCE_MS = 80_000;

/** Both sides of a proof. */
interface Sides {
  readonly base: readonly Answer[];
  readonly fixed: readonly Answer[];
  /** Added to on the way. */
  readonly differs: Set<string>;
}

async function proveOn(
  stage: Stage,
  audit: ProvedPage,
  options: ProveOptions,
  sides: Sides,
): Promise<ProofWithPictures> {
  const { visitor, fixes, runs, signal } = options;
  const { capture } = audit.page;
  const { differs } = sides;
  const unanswered = new Set<string>();
  const visit = async (answers: readonly Answer[], more: { screenshot?: boolean; film?: boolean }) => {
    const made = await stage.visit(answers, capture.requested || capture.page, {
      screen: capture.conditions,
      clockMs: Date.parse(capture.recordedAt) || Date.now(),
      signal,
      ...more,
    });
    for (const url of [...made.report.unanswered, ...made.visit.unreachable]) unanswered.add(url);
    for (const { asked, as } of made.report.likened.slice(0, 20)) differs.add(`${asked} was answered as ${as}.`);
    return made.visit;
  };
  const before: ReplayVisit[] = [];
  const after: ReplayVisit[] = [];
  const most = runs ?? RUNS.most;
  const started = Date.now();
  const total = () =>
    2 * Math.max(runs ?? RUNS.planned, Math.min(before.length + 1, most)) + 1 + (options.film ? 2 : 0);
  let done = 0;
  const step = async (
    text: string,
    answers: readonly Answer[],
    more: { screenshot?: boolean; film?: boolean } = {},
  ) => {
    const leftMs = done > 1 ? ((Date.now() - started) / done) * (total() - done) : undefined;
    options.onProgress?.({ done, total: total(), leftMs, text });
    const made = await visit(answers, more);
    done++;
    return made;
  };
  // The first visit of a browser is slower than the rest; of two screens without fixes one is compared with the other.
  const warm = await step('warming up', sides.base, { screenshot: true });
  if (warm.fcpMs < 0)
    throw new PageError(
      'The replayed page shows nothing: the capture lacks what it needs.',
      capture.page,
      unanswered.size > 0
        ? `Not captured: ${[...unanswered].slice(0, 3).join(', ')}. Record it anew.`
        : 'Record it anew.',
    );
  while (before.length < most) {
    const screenshot = before.length === 0;
    const run = () =>
      `run ${before.length + after.length + 1} of ${runs ? '' : 'about '}${total() - 1 - (options.film ? 2 : 0)}`;
    before.push(await step(run(), sides.base, { screenshot }));
    after.push(await step(run(), sides.fixed, { screenshot }));
    const late = before.length >= RUNS.planned && Date.now() - started > PATIENCE_MS;
    if (runs === undefined && (late || saysEnough(shown(before), shown(after)))) break;
  }
  const film = options.film
    ? {
        before: (await step('filming the page as it is', sides.base, { film: true })).frames,
        after: (await step('filming it with the fixes', sides.fixed, { film: true })).frames,
      }
    : { before: [], after: [] };
  const change = changeOfRuns(shown(before), shown(after));
  const promised = forecast(audit.graph, fixes, visitor);
  const screens = { before: before[0]?.screenshot, after: after[0]?.screenshot };
  const known = new Set([warm, ...before].flatMap((v) => v.errors));
  return {
    screens,
    film,
    proof: {
      version: VERSION,
      browser: stage.browserName,
      provedAt: new Date().toISOString(),
      page: capture.page,
      visitor: visitor.id,
      link: stage.way,
      runs: before.length,
      fixes: fixes.map(({ id, kind, target }) => ({ id, kind, target })),
      before: samplesOfRuns(shown(before)),
      after: samplesOfRuns(shown(after)),
      change,
      forecast: { change: promised.change, range: promised.range },
      held: heldOf(change, promised),
      hero: { before: before[0]?.hero ?? '', after: after[0]?.hero ?? '' },
      firstScreenAlike: await alike(screens.before, screens.after),
      firstScreenItself: await alike(warm.screenshot, screens.before),
      unanswered: [...unanswered],
      newErrors: [...new Set(after.flatMap((v) => v.errors))].filter((e) => !known.has(e)),
      differs: [...differs],
    },
  };
}

/** Visits that came to show something; all of them when none did. */
function shown(visits: readonly ReplayVisit[]): readonly ReplayVisit[] {
  const good = visits.filter((v) => v.lcpMs >= 0);
  return good.length > 0 ? good : visits;
}

async function alike(a: Buffer | undefined, b: Buffer | undefined): Promise<number> {
  return a && b ? ((await similarityOf(a, b)) ?? 0) : 0;
}
