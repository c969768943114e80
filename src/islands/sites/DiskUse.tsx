import { useResource } from '../state/api';
import type { SiteSummary } from '../state/types';
import { bytes, count } from '../ui/format';
import { ErrorBox, Loading, Term } from '../ui/parts';
import { DISK, type DiskAnswer } from './diskPath';

/** What each site takes on the disk, the largest first. */
export default function DiskUse({ sites }: { sites: readonly SiteSummary[] }) {
  const disk = useResource<DiskAnswer>(DISK);
  if (disk.error) return <ErrorBox error={disk.error} retry={disk.reload} />;
  if (!disk.value) return <Loading what="Adding up" />;
  const names = new Map(sites.map((s) => [s.id, s.name]));
  const rows = disk.value.sites
    .map((d) => ({ ...d, total: d.captureBytes + d.bodyBytes }))
    .sort((a, b) => b.total - a.total);
  const most = Math.max(1, ...rows.map((r) => r.total));
  return (
    <>
      <p>
        The database takes {bytes(disk.value.databaseBytes)} on the disk. A file that several sites use counts for each.
      </p>
      <div className="wide-rows">
        <table className="rows disk">
          <thead>
            <tr>
              <th>Site</th>
              <th className="right">
                <Term means="Requests, findings, fixes and figures of captures.">What was found out</Term>
              </th>
              <th className="right">
                <Term means="Sources, pictures and other files of captures.">Files</Term>
              </th>
              <th className="right">Together</th>
              <th aria-hidden="true" />
              <th>Captures</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.siteId}>
                <td>{names.get(r.siteId) ?? `site ${r.siteId}`}</td>
                <td className="right">{bytes(r.captureBytes)}</td>
                <td className="right">{bytes(r.bodyBytes)}</td>
                <td className="right strong">{bytes(r.total)}</td>
                <td aria-hidden="true">
                  <svg width={120} height={12}>
                    <rect width={(120 * r.total) / most} height={12} />
                  </svg>
                </td>
                <td>
                  {count(r.captures, 'capture')}
                  {r.thinned > 0 && <span className="soft">, {r.thinned.toLocaleString('en-GB')} without files</span>}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="soft">
        To let go files of older sweeps, set <q>Sweeps that keep their files</q> in the settings of a site. To make the
        database as small as what is in it:
      </p>
      <pre className="mono" tabIndex={0}>
        npx keen-lens compact --keep 3
      </pre>
    </>
  );
}
