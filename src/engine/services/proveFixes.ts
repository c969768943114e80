import type { Fix, OfferContext } from '../../core/fixes/fix';
import type { Visitor } from '../../core/load/visitors';
import type { LoadGraph } from '../../core/load/graph';
import { forecast } from '../../core/plan/forecast';
import { changeOfRuns, heldOf, samplesOfRuns, type Held, type Promised, type Samples } from '../../core/proof/proof';
import { typicalOf, type MeasuredLoad } from '../../core/proof/measuredLoad';
import { VERSION } from '../../core/version';
import { editedSite } from '../imaging/editedSite';
import { similarityOf } from '../imaging/similarity';
import { editedAnswers, hostsOf, recordedAnswers, type Levels } from '../replay/answers';
import { runReplay, shown, type ProofProgress, type ReplayPlan, type ReplayRuns } from '../replay/runReplay';
import type { ProofLink } from '../replay/stage';
import type { Frame } from '../replay/visit';

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
  /** Makes the visits elsewhere. */
  readonly replay?: (plan: ReplayPlan) => Promise<ReplayRuns>;
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

/** What typical visits without and with fixes loaded, and when. */
export interface MeasuredLoads {
  readonly before: MeasuredLoad;
  readonly after: MeasuredLoad;
}

/** A proof with its pictures. */
export interface ProofWithPictures {
  readonly proof: Proof;
  readonly screens: { readonly before?: Buffer; readonly after?: Buffer };
  readonly film: { readonly before: readonly Frame[]; readonly after: readonly Frame[] };
  /** A typical visit of each side, with its requests. */
  readonly loads?: MeasuredLoads;
}

/**
 * Proves fixes on a captured page: loads it in a real browser over a visitor's link, without and with them in turn, each
 * time with a new profile, from servers that answer as recorded. Nothing leaves the machine that does it.
 * @throws PageError when the browser or the replay fails, or the page shows nothing; the reason of the signal
 */
export async function proveFixes(audit: ProvedPage, options: ProveOptions): Promise<ProofWithPictures> {
  const { visitor, fixes, signal, onProgress, replay } = options;
  const { capture } = audit.page;
  const levels: Levels = new Map();
  const base = await recordedAnswers(audit, audit.graph, levels);
  const fixed = await editedAnswers(base, await editedSite(fixes, audit), levels);
  const plan: ReplayPlan = {
    hosts: hostsOf(audit, audit.graph, [...base.answers, ...fixed.answers]),
    link: visitor,
    way: options.link,
    lookups: audit.graph.lookups,
    base: base.answers,
    fixed: fixed.answers,
    url: capture.requested || capture.page,
    page: capture.page,
    screen: capture.conditions,
    clockMs: Date.parse(capture.recordedAt) || Date.now(),
    runs: options.runs,
    film: options.film ?? false,
  };
  const made = replay ? await replay(plan) : await runReplay(plan, { signal, onProgress });
  const differs = new Set([...base.differs, ...fixed.differs, ...made.differs]);
  if (!sameScreen(audit, visitor))
    differs.add("The screen is the recording's, not the visitor's: other pictures were never captured.");
  return judge(audit, options, made, [...differs]);
}

const sameScreen = ({ page: { capture } }: ProvedPage, v: Visitor) =>
  capture.conditions.screenWidth === v.screenWidth && capture.conditions.density === v.density;

/** Holds what was measured against the forecast. */
async function judge(
  audit: ProvedPage,
  { fixes, visitor }: ProveOptions,
  { warm, before, after, film, unanswered, browser, way }: ReplayRuns,
  differs: readonly string[],
): Promise<ProofWithPictures> {
  const change = changeOfRuns(shown(before), shown(after));
  const promised = forecast(audit.graph, fixes, visitor);
  const screens = { before: before[0]?.screenshot, after: after[0]?.screenshot };
  const known = new Set([warm, ...before].flatMap((v) => v.errors));
  return {
    screens,
    film,
    loads: measuredLoads(shown(before), shown(after)),
    proof: {
      version: VERSION,
      browser,
      provedAt: new Date().toISOString(),
      page: audit.page.capture.page,
      visitor: visitor.id,
      link: way,
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
      unanswered,
      newErrors: [...new Set(after.flatMap((v) => v.errors))].filter((e) => !known.has(e)),
      differs,
    },
  };
}

function measuredLoads(before: readonly MeasuredLoad[], after: readonly MeasuredLoad[]): MeasuredLoads | undefined {
  const [a, b] = [typicalOf(before), typicalOf(after)];
  return a && b && { before: loadOnly(a), after: loadOnly(b) };
}

/** Without the pictures and errors that a visit has besides. */
const loadOnly = ({ fcpMs, lcpMs, loadMs, cls, bytes, requests }: MeasuredLoad): MeasuredLoad => ({
  fcpMs,
  lcpMs,
  loadMs,
  cls,
  bytes,
  requests,
});

async function alike(a: Buffer | undefined, b: Buffer | undefined): Promise<number> {
  return a && b ? ((await similarityOf(a, b)) ?? 0) : 0;
}
