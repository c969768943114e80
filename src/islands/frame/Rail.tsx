import { CONCERNS } from '../../core/checks/concern';
import type { Role } from '../../core/people/roles';
import { useBench } from '../state/bench';
import { useLocation } from '../state/location';
import { To } from '../ui/To';
import { island } from './island';

/** The way between the screens of a site. */
export function Rail() {
  const { path } = useLocation();
  const { site, data, sweepId, base } = useBench();
  const rest = path.slice(base.length) || '/';
  const sweep = site.value?.sweeps.find((s) => s.id === sweepId);
  const counts = data.value?.counts ?? {};
  const items: { to: string; name: string; n?: number; on: boolean; line?: boolean; needs?: Role }[] = [
    { to: base, name: 'Brief', on: rest === '/' },
    ...CONCERNS.map((c) => ({
      to: `${base}/concerns/${c.id}`,
      name: c.name,
      n: counts[c.id] ?? 0,
      on: rest === `/concerns/${c.id}`,
    })),
    { to: `${base}/checks`, name: 'Checks and limits', on: rest === '/checks' },
    { to: `${base}/plan`, name: 'Bench and plans', on: rest === '/plan', line: true },
    { to: `${base}/proofs`, name: 'Proofs', on: rest.startsWith('/proofs') },
    { to: `${base}/handover`, name: 'Handover', on: rest === '/handover' },
    {
      to: `${base}/pages`,
      name: 'Pages',
      n: sweep?.addresses || (data.value?.pages.length ?? 0),
      on: /^\/(pages|facts)/.test(rest),
    },
    { to: `${base}/files`, name: 'Files', on: rest === '/files' },
    { to: `${base}/compare`, name: 'Then & now', on: rest === '/compare' },
    { to: `${base}/field`, name: 'Field data', on: rest === '/field' },
    {
      to: `${base}/watch`,
      name: 'Watch',
      n: site.value?.unread || undefined,
      on: rest === '/watch',
    },
    {
      to: `${base}/sweep`,
      name: 'New sweep',
      on: rest === '/sweep' || rest.startsWith('/jobs'),
      line: true,
      needs: 'auditor',
    },
  ];
  return (
    <nav className="rail" aria-label="Screens">
      {items.map((i) => (
        <To
          key={i.to}
          to={i.to}
          className={`${i.on ? 'on' : ''} ${i.line ? 'line' : ''}`}
          data-needs={i.needs}
          aria-current={i.on ? 'page' : undefined}
        >
          <span>{i.name}</span>
          {i.n !== undefined && <small>{i.n.toLocaleString('en-GB')}</small>}
        </To>
      ))}
    </nav>
  );
}

export default island(Rail);
