import { scaleLinear } from 'd3';
import { MIN_DAYS_LEFT } from '../../core/site/certificateLimits';
import type { HstsPolicy, JudgedCertificate } from '../../core/site/certificates';
import { count, day } from '../ui/format';

const ROW = 22;
const LABEL = 190;
const SIDE = 190;

/** Certificates on a time line from the day of the probe: how long each still holds, and what is wrong with it. */
export function CertificateLines({
  certificates,
  askedAt,
  width,
}: {
  certificates: readonly JudgedCertificate[];
  askedAt: string;
  width: number;
}) {
  const sorted = [...certificates].sort((a, b) => a.daysLeft - b.daysLeft);
  const most = Math.max(60, ...sorted.map((c) => c.daysLeft));
  const least = Math.min(0, ...sorted.map((c) => c.daysLeft));
  const wide = Math.max(560, width);
  const x = scaleLinear([least, most], [LABEL, wide - SIDE]);
  const height = sorted.length * ROW + 26;
  return (
    <figure className="chart certificate-lines" tabIndex={0}>
      <svg
        width={wide}
        height={height}
        role="img"
        aria-label={`Days left by certificate: ${sorted.map((c) => `${c.host} ${c.daysLeft}${c.faults.length ? ` (${c.faults.join(', ')})` : ''}`).join('; ')}`}
      >
        {x.ticks(wide < 700 ? 3 : 5).map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 16V${height - 6}`} stroke="var(--grid)" />
            <text x={x(t)} y={11} textAnchor="middle" className="axis-text">
              {t === 0 ? day(askedAt) : `${t} days`}
            </text>
          </g>
        ))}
        <path d={`M${x(MIN_DAYS_LEFT)} 16V${height - 6}`} className="certificate-limit">
          <title>{`Fewer than ${MIN_DAYS_LEFT} days leave no time to repair a failed renewal.`}</title>
        </path>
        {sorted.map((c, i) => {
          const y = 30 + i * ROW;
          const bad = c.faults.length > 0;
          const [from, to] = [x(Math.min(0, c.daysLeft)), x(Math.max(0, c.daysLeft))];
          return (
            <g key={c.host} className={bad ? 'entry bad' : 'entry good'}>
              <title>{`${c.host}: ${day(c.validFrom)} to ${day(c.validTo)}, issued by ${c.issuer}; ${c.key}, ${c.signature}; ${c.oldestTls} to ${c.newestTls}; names: ${c.names.join(', ')}`}</title>
              <text x={0} y={y + 4} className="entry-name">
                {c.host.length > 28 ? `${c.host.slice(0, 27)}…` : c.host}
              </text>
              <rect x={from} y={y - 4} width={Math.max(2, to - from)} height={8} className="certificate-bar" />
              <text x={to + 6} y={y + 4} className="entry-status">
                {c.daysLeft < 0 ? `expired ${count(-c.daysLeft, 'day')} ago` : count(c.daysLeft, 'day')}
                {c.faults.filter((f) => f !== 'expired').length > 0 && (
                  <tspan className="stop">{`  ${c.faults.filter((f) => f !== 'expired').join(', ')}`}</tspan>
                )}
              </text>
            </g>
          );
        })}
      </svg>
    </figure>
  );
}

/** The same as a table, with HSTS beside it. */
export function CertificateTable({
  certificates,
  hsts,
}: {
  certificates: readonly JudgedCertificate[];
  hsts: readonly HstsPolicy[];
}) {
  const policy = new Map(hsts.map((h) => [h.host, h]));
  return (
    <table className="grid">
      <thead>
        <tr>
          <th>Host</th>
          <th>Valid until</th>
          <th>Issuer and key</th>
          <th>TLS</th>
          <th>Faults</th>
          <th>HSTS</th>
        </tr>
      </thead>
      <tbody>
        {certificates.map((c) => {
          const h = policy.get(c.host);
          return (
            <tr key={c.host}>
              <td className="mono">{c.host}</td>
              <td>{day(c.validTo)}</td>
              <td>
                {c.issuer}, {c.key}
              </td>
              <td>
                {c.oldestTls} to {c.newestTls}
                {c.http2 ? ', HTTP/2' : ''}
              </td>
              <td className={c.faults.length > 0 ? 'cost' : ''}>{c.faults.join(', ') || 'none'}</td>
              <td>{h === undefined ? 'not asked' : h.faults.length > 0 ? h.faults.join(' ') : h.header}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
