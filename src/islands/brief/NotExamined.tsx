import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useChecks } from '../state/checks';
import { count } from '../ui/format';
import { To } from '../ui/To';

interface SweepFacts {
  readonly pages: Readonly<Record<string, number>>;
  readonly notes: readonly { readonly what: string; readonly count: number; readonly example: string }[];
}

/** What this sweep says nothing about. */
export function NotExamined() {
  const { sweepId, site, data, base } = useBench();
  const facts = useResource<SweepFacts>(sweepId === undefined ? undefined : `/api/sweeps/${sweepId}`);
  const sweep = site.value?.sweeps.find((s) => s.id === sweepId);
  const checks = useChecks();
  const recorded = data.value?.pages.length ?? 0;
  const known = sweep?.addresses ?? 0;
  return (
    <details className="twin" id="not-examined">
      <summary>What was not examined</summary>
      <ul className="soft">
        {known > recorded ? (
          <li>
            <To className="link" to={`${base}/pages?view=all`}>
              {count(known - recorded, 'address', 'addresses')}
            </To>{' '}
            of {known.toLocaleString('en-GB')} known were not recorded by a browser: findings and forecasts say nothing
            about them.
          </li>
        ) : (
          <li>Pages of the site that were not recorded: they may have other faults.</li>
        )}
        {facts.value?.notes.map((n) => (
          <li key={n.what + n.example}>
            {n.what} {n.count > 1 && `(${n.count.toLocaleString('en-GB')} times)`}
          </li>
        ))}
        <li>
          What each of the{' '}
          <To className="link" to={`${base}/checks`}>
            {checks.length > 0 ? count(checks.length, 'check') : 'checks'}
          </To>{' '}
          cannot see is shown next to it.
        </li>
        <li>Entrances and certificates that no recording went through.</li>
        <li>Second visits: every figure here is for somebody who comes for the first time.</li>
        <li>What happens after the load: scrolling, clicking, menus that were closed.</li>
      </ul>
    </details>
  );
}
