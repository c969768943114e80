import { howItLeads, isGood, VERDICTS, type Entrance, type Verdict } from '../../core/site/entrances';
import { faultsFirst, verdictCounts, type ListedEntrances } from '../../core/site/listedEntrances';
import { sum } from 'd3';
import type { SiteProbe } from '../../engine/store/probes';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { count, dayTime } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { SetTo } from '../ui/SetTo';
import { useWidth } from '../ui/useWidth';
import { ProbeEntrances } from './ProbeEntrances';
import { CertificateLines, CertificateTable } from './CertificateLines';
import { CoverageAreas } from './CoverageAreas';
import { EntrancePaths } from './EntrancePaths';
import { SeenBySweep } from './SeenBySweep';

type ListedProbe = SiteProbe & ListedEntrances & { readonly id: number };

interface EntrancesAnswer {
  readonly probe: ListedProbe | null;
  readonly times: readonly { readonly id: number; readonly askedAt: string }[];
}

/** Rows of the table of addresses. */
const SHOWN = 40;

/** Where what this screen shows of the last probe is read; the table narrowed as the address says. */
export function entrancesPath(siteId: number, query: URLSearchParams): string {
  const verdict = verdictIn(query);
  return `/api/sites/${siteId}/entrances?rows=${SHOWN}${verdict ? `&verdict=${encodeURIComponent(verdict)}` : ''}`;
}

/** The verdict that an address narrows the table to; undefined for none, and for one that there is not. */
const verdictIn = (query: URLSearchParams): Verdict | undefined => VERDICTS.find((v) => v === query.get('verdict'));

/** Where every way into the site leads, its certificates, and the state of every known address. */
export function Entrances() {
  const { siteId, sweepId } = useBench();
  const { ref, width } = useWidth(340);
  const { query } = useLocation();
  const found = useResource<EntrancesAnswer>(entrancesPath(siteId, query));
  if (found.error) return <ErrorBox error={found.error} retry={found.reload} />;
  if (!found.value) return <Loading what="Reading the last probe" />;
  const { probe } = found.value;
  return (
    <div ref={ref}>
      {probe ? (
        <Probe probe={probe} width={width} />
      ) : (
        <p>
          The entrances of this site have not been probed yet: http and https, with and without www, and every other
          host.
        </p>
      )}
      <ProbeEntrances siteId={siteId} askedAt={probe?.askedAt} onDone={found.reload} />
      {sweepId !== undefined && <CoverageAreas sweepId={sweepId} width={width} />}
      <SeenBySweep />
    </div>
  );
}

function Probe({ probe, width }: { probe: ListedProbe; width: number }) {
  const { query } = useLocation();
  const ways = probe.entrances.filter((e) => e.why === 'entrance');
  const bad = ways.filter((e) => !isGood(e.verdict));
  const badCertificates = probe.certificates.filter((c) => c.faults.length > 0);
  const verdict = verdictIn(query);
  const main = endOfMost(ways);
  return (
    <>
      <p className="serif big">
        {bad.length === 0
          ? `All ${ways.length} entrances end at a secure address in at most one permanent redirect.`
          : `${ways.length - bad.length} of ${count(ways.length, 'entrance')} ${ways.length - bad.length === 1 ? 'ends' : 'end'} at a secure address in at most one permanent redirect; ${bad.length} ${bad.length === 1 ? 'does' : 'do'} not.`}{' '}
        {badCertificates.length > 0 &&
          `${count(badCertificates.length, 'certificate has', 'certificates have')} a fault.`}
      </p>
      {main && (
        <p className="soft">
          The address of this site: <span className="mono">{main}</span>
        </p>
      )}
      <VerdictFilter verdicts={verdictCounts(ways)} verdict={verdict} />
      <EntrancePaths entrances={ways} width={width} />
      <details open={verdict !== undefined}>
        <summary>
          The same as a table, and {count(probe.deep.addresses, 'deep address', 'deep addresses')} ({probe.deep.faulty}{' '}
          with faults)
        </summary>
        <VerdictFilter verdicts={probe.verdicts} verdict={verdict} />
        <EntranceTable
          entrances={probe.entrances.filter((e) => !verdict || e.verdict === verdict)}
          all={sum(probe.verdicts, (v) => (!verdict || v.verdict === verdict ? v.addresses : 0))}
        />
      </details>
      <h2>Certificates</h2>
      <CertificateLines certificates={probe.certificates} askedAt={probe.askedAt} width={width} />
      <details>
        <summary>The same as a table, with HSTS</summary>
        <CertificateTable certificates={probe.certificates} hsts={probe.hsts} />
      </details>
      {probe.versions.length > 0 && (
        <details>
          <summary>
            {count(probe.versions.length, 'file')} fetched over http:{' '}
            {probe.versions.filter((v) => v.verdict === 'same bytes').length} work over https with the same bytes
          </summary>
          <table className="grid">
            <thead>
              <tr>
                <th>File</th>
                <th>Pages</th>
                <th>HTTPS version</th>
              </tr>
            </thead>
            <tbody>
              {probe.versions.map((v) => (
                <tr key={v.url}>
                  <td className="mono break">{v.url}</td>
                  <td className="right">{v.pages}</td>
                  <td className={v.verdict === 'same bytes' ? '' : 'cost'}>{v.says}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </details>
      )}
      {probe.harmlessLinks > 0 && <OutsideLinks links={probe.harmlessLinks} found={probe.outsideLinks} />}
      <p className="soft small">Probed on {dayTime(probe.askedAt)}.</p>
    </>
  );
}

/** Links to other sites' http pages, and which of these could be linked by https. */
function OutsideLinks({ links, found }: { links: number; found: SiteProbe['outsideLinks'] }) {
  const lead = `${count(links, 'link leads', 'links lead')} to http pages of other sites: harmless for your visitors`;
  if (!found)
    return <p className="soft">{lead}. “What is probed” has a switch that looks up which of them exist over https.</p>;
  return (
    <details>
      <summary>
        {lead}. {found.filter((f) => f.secure).length} of {count(found.length, 'page')} can be linked by https
      </summary>
      <table className="grid">
        <thead>
          <tr>
            <th>Page of another site</th>
            <th>Links</th>
            <th>Over https</th>
          </tr>
        </thead>
        <tbody>
          {found.map((f) => (
            <tr key={f.url}>
              <td className="mono break">{f.url}</td>
              <td className="right">{f.links}</td>
              <td>{f.says}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </details>
  );
}

/** The secure address that most ways lead to. */
function endOfMost(ways: readonly Entrance[]): string | undefined {
  const ends = new Map<string, number>();
  for (const w of ways)
    if (w.end?.url.startsWith('https:') && w.end.status < 300) ends.set(w.end.url, (ends.get(w.end.url) ?? 0) + 1);
  return [...ends].sort((a, b) => b[1] - a[1])[0]?.[0];
}

interface FilterProps {
  readonly verdicts: ListedEntrances['verdicts'];
  readonly verdict?: Verdict;
}

function VerdictFilter({ verdicts, verdict }: FilterProps) {
  return (
    <p className="tools">
      {verdicts.map(({ verdict: v, addresses }) => (
        <SetTo
          key={v}
          role="button"
          className={v === verdict ? 'strong' : 'link'}
          aria-pressed={v === verdict}
          changes={{ verdict: v === verdict ? null : v }}
        >
          {v} {addresses}
        </SetTo>
      ))}
    </p>
  );
}

/** @param all how many addresses there are of what is shown; only the first of them are at hand */
function EntranceTable({ entrances, all }: { entrances: readonly Entrance[]; all: number }) {
  const rows = faultsFirst(entrances).slice(0, SHOWN);
  return (
    <>
      <table className="grid">
        <thead>
          <tr>
            <th>Asked for</th>
            <th>Verdict</th>
            <th>What happens</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((e) => (
            <tr key={e.from + e.family}>
              <td className="mono break">
                {e.from}
                {e.family === 'IPv6' && ' (IPv6)'}
              </td>
              <td className={isGood(e.verdict) ? '' : 'cost'}>{e.verdict}</td>
              <td>
                {e.says}
                {e.hops.length > 1 && (
                  <div className="mono small soft break">
                    {e.hops.map((h, i) => (
                      <span key={i}>
                        {i > 0 && ' → '}
                        {h.url} {h.status === 0 ? 'no answer' : howItLeads(h)}, {h.ms} ms
                      </span>
                    ))}
                  </div>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {all > rows.length && <p className="soft">{all - rows.length} more: narrow the table by a verdict.</p>}
    </>
  );
}
