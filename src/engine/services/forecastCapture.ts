import { InputError } from '../../core/capture/errors';
import { originOf } from '../../core/capture/url';
import { fixKind } from '../../core/fixes';
import { makeFix, type Fix, type OfferContext } from '../../core/fixes/fix';
import type { LoadGraph } from '../../core/load/graph';
import type { Visitor } from '../../core/load/visitors';
import { measuredFixes } from '../imaging/editedSite';
import { splitText } from '../../core/handover/effectText';
import { explain, forecast, trustOf, waitsOf, type Forecast, type Trust, type Waits } from '../../core/plan/forecast';

/** A fix as asked for by name: kind, target and keys. */
export interface FixRequest {
  readonly kind: string;
  readonly target: string;
  readonly values?: Readonly<Record<string, number>>;
}

/** Parses `KIND TARGET key=value ...` of the command line. @throws InputError */
export function parseFixRequest(text: string): FixRequest {
  const [kind = '', target = '', ...rest] = text.trim().split(/\s+/);
  if (!fixKind(kind))
    throw new InputError(
      `There is no kind of fix "${kind}".`,
      `--fix '${text}'`,
      'See keen-lens forecast --help for the kinds.',
    );
  if (!target)
    throw new InputError('A fix needs a target.', `--fix '${text}'`, "Write KIND TARGET, e.g. --fix 'hero-eager *'.");
  const values: Record<string, number> = {};
  for (const pair of rest) {
    const m = /^([a-z-]+)=(\d+(?:\.\d+)?)$/i.exec(pair);
    if (!m?.[1]) throw new InputError(`"${pair}" is not key=number.`, `--fix '${text}'`, 'For example bytes=48000.');
    values[m[1]] = Number(m[2]);
  }
  return { kind, target, values };
}

/**
 * Fixes for requests on one page: those that the audit offers, with given keys on top; a target
 * that no check complained about is taken as it is.
 * @throws InputError when the target is not on the page.
 */
export function resolveFixes(
  requests: readonly FixRequest[],
  offered: readonly Fix[],
  context: OfferContext,
  graph: LoadGraph,
): Fix[] {
  return requests.flatMap((request): Fix[] => {
    const kind = fixKind(request.kind);
    if (!kind)
      throw new InputError(
        `There is no kind of fix "${request.kind}".`,
        'fixes[].kind',
        'See docs/api.md for the kinds.',
      );
    const same = offered.filter((f) => f.kind === kind.id);
    const matching =
      request.target === '*' ? same : same.filter((f) => f.target === request.target || f.target === '*');
    const values = request.values ?? {};
    if (matching.length > 0)
      return matching.map((f) => ({
        ...f,
        target: f.target === '*' ? request.target : f.target,
        values: { ...f.values, ...values },
      }));
    if (request.target !== '*' && !onPage(graph, request.target)) {
      throw new InputError(
        'No load of this page has the target of the fix.',
        request.target,
        'Give the address as it stands in the load record, or * for all.',
      );
    }
    return [
      makeFix({
        kind,
        page: context.page,
        target: request.target,
        findings: [],
        title: kind.title,
        group: request.target,
        values,
      }),
    ];
  });
}

/** Addresses of loads; and hosts, as `https://host/` or `https://host/*`. */
function onPage(graph: LoadGraph, target: string): boolean {
  const origin = /^https?:\/\/[^/]+\/\*?$/.test(target) ? originOf(target.replace(/\*$/, '')) : undefined;
  return graph.fetches.some((f) => f.url === target || f.origin === origin);
}

/** Fixes with what was left out measured by really doing it, on the bodies of the capture. */
export async function withMeasuredValues(fixes: readonly Fix[], context: OfferContext): Promise<Fix[]> {
  const measured = await Promise.all(
    fixes.map((f) => (f.values.bytes === undefined ? measuredFixes(f, context) : [f])),
  );
  return measured.flat();
}

/** Forecast of fixes together, and of each alone if asked for. */
export interface ForecastAnswer extends Forecast {
  readonly fixes: readonly { readonly id: string; readonly kind: string; readonly target: string }[];
  readonly trust: Trust;
  readonly why: readonly string[];
  readonly visit: 'first' | 'again';
  /** What first paint, hero paint and load wait for. */
  readonly waits: { readonly before: Waits; readonly after: Waits };
  readonly each?: readonly (Forecast & {
    readonly fix: { readonly id: string; readonly kind: string; readonly target: string };
  })[];
}

/** Computes one combined forecast for one visitor. */
export function answerForecast(
  graph: LoadGraph,
  fixes: readonly Fix[],
  visitor: Visitor,
  each: boolean,
  visit: 'first' | 'again' = 'first',
): ForecastAnswer {
  const together = forecast(graph, fixes, visitor, visit);
  const name = (f: Fix) => ({ id: f.id, kind: f.kind, target: f.target });
  return {
    ...together,
    visit,
    waits: waitsOf(graph, fixes, visitor, visit),
    fixes: fixes.map(name),
    trust: trustOf(graph),
    why: [...explain(graph, fixes, visitor), ...(together.split ? [splitText(together.split)] : [])],
    each: each ? fixes.map((f) => ({ fix: name(f), ...forecast(graph, [f], visitor, visit) })) : undefined,
  };
}
