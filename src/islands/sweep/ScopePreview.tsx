import { useDeferredValue, useMemo } from 'react';
import { InputError } from '../../core/capture/errors';
import { hostOf, pathOf } from '../../core/capture/url';
import { scopeOf } from '../../core/site/scope';
import type { SweepSettings } from '../../core/site/settings';
import { useResource } from '../state/api';
import { count, day } from '../ui/format';
import { filled } from '../ui/Fields';

const SHOWN = 200;

/** Which known addresses the scope keeps and leaves out, as it is typed. */
export default function ScopePreview({ siteId, settings }: { siteId: number; settings: SweepSettings }) {
  const known = useResource<{ addresses: string[]; day?: string; total: number }>(`/api/sites/${siteId}/addresses`);
  const wanted = useDeferredValue(settings);
  const split = useMemo(() => {
    try {
      const out = scopeOf({ ...wanted, include: filled(wanted.include), exclude: filled(wanted.exclude) });
      const kept: string[] = [];
      const left: string[] = [];
      for (const url of known.value?.addresses ?? []) (out(url) ? left : kept).push(url);
      return { kept, left };
    } catch (error) {
      return { fault: error instanceof InputError ? error.what : String(error) };
    }
  }, [wanted, known.value]);
  if (!known.value) return null;
  if (known.value.addresses.length === 0)
    return (
      <p className="soft small">
        No address of this site is known yet: after the first sweep you see here what is kept.
      </p>
    );
  if (split.fault !== undefined) return <p className="cost">{split.fault}</p>;
  return (
    <div className="preview" aria-live="polite">
      <p>
        Keeps <b>{split.kept.length.toLocaleString('en-GB')}</b> of{' '}
        {count(known.value.addresses.length, 'known address', 'known addresses')}
        {known.value.day && <span className="soft"> (sweep of {day(known.value.day)})</span>}
      </p>
      <div className="split">
        <Addresses title="Kept" list={split.kept} host={hostOf(settings.home)} />
        <Addresses title="Left out" list={split.left} host={hostOf(settings.home)} />
      </div>
    </div>
  );
}

function Addresses({ title, list, host }: { title: string; list: readonly string[]; host: string }) {
  return (
    <section>
      <h2>
        {title}: {list.length.toLocaleString('en-GB')}
      </h2>
      <ul className="mono small" tabIndex={0} aria-label={`${title} addresses`}>
        {list.slice(0, SHOWN).map((u) => (
          <li key={u} title={u}>
            {hostOf(u) === host && u.startsWith('https:') ? pathOf(u) : u}
          </li>
        ))}
        {list.length > SHOWN && <li className="soft">and {(list.length - SHOWN).toLocaleString('en-GB')} more</li>}
      </ul>
    </section>
  );
}
