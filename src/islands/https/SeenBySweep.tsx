import type { HttpsFacts } from '../../engine/store/httpsFacts';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { ErrorBox } from '../ui/parts';
import { To } from '../ui/To';

/** Faults of HTTPS coverage that the sweep saw on its pages, whether these were recorded or not. */
export function SeenBySweep() {
  const { sweepId, base } = useBench();
  const facts = useResource<HttpsFacts>(sweepId === undefined ? undefined : `/api/sweeps/${sweepId}/https`);
  if (facts.error) return <ErrorBox error={facts.error} retry={facts.reload} />;
  if (!facts.value || (facts.value.groups.length === 0 && !facts.value.anyCertificate)) return null;
  return (
    <section aria-label="Seen by the sweep">
      <h2>Seen by the sweep</h2>
      {facts.value.anyCertificate && (
        <p className="soft">This sweep accepted any certificate, so it says nothing about certificates.</p>
      )}
      {facts.value.groups.map((g) => (
        <details key={g.id} open={g.total <= 5}>
          <summary>
            {g.title}: <b>{g.total.toLocaleString('en-GB')}</b>
          </summary>
          <ul className="mono small">
            {g.rows.map((r) => (
              <li key={r.pageId}>
                <To className="link" to={`${base}/facts/${r.pageId}`}>
                  {r.url}
                </To>{' '}
                <span className="soft">
                  {r.status}
                  {r.to ? ` → ${r.to}` : ''}
                  {r.hops > 1 ? `, ${r.hops} redirects` : ''}
                </span>
              </li>
            ))}
            {g.total > g.rows.length && (
              <li className="soft">and {(g.total - g.rows.length).toLocaleString('en-GB')} more, in Pages</li>
            )}
          </ul>
        </details>
      ))}
    </section>
  );
}
