import { setQuery, useLocation } from '../state/location';
import { FilterForm } from '../ui/FilterForm';
import { count } from '../ui/format';
import { SetTo } from '../ui/SetTo';
import type { CausesAnswer } from './causes';

const LISTS = [
  { name: 'check', list: 'checks', label: 'Check' },
  { name: 'folder', list: 'folders', label: 'Folder' },
  { name: 'template', list: 'templates', label: 'Template' },
  { name: 'host', list: 'hosts', label: 'Host' },
] as const;

/** What narrows the list of causes: harm, check, folder, template, host, and what is muted. */
export function CauseFilters({ answer }: { answer: CausesAnswer }) {
  const { query } = useLocation();
  const chosen = (name: string) => query.get(name);
  const harms = new Map(answer.facets.harms.map((h) => [h.value, h.causes]));
  const muted = chosen('muted');
  const harmsChosen = (chosen('harm') ?? '').split(',').filter(Boolean);
  const any = ['harm', ...LISTS.map((l) => l.name), 'search', 'muted'].some(chosen);
  return (
    <FilterForm fields={['check', 'folder', 'template', 'host']}>
      <span role="group" aria-label="Harm">
        {(['broken', 'exposed', 'slow', 'tidy'] as const).map((h) => (
          <SetTo
            key={h}
            role="button"
            className={harmsChosen.includes(h) ? 'chip on' : 'chip'}
            aria-pressed={harmsChosen.includes(h)}
            aria-disabled={!harms.has(h) && !harmsChosen.includes(h)}
            changes={{
              harm:
                (harmsChosen.includes(h) ? harmsChosen.filter((x) => x !== h) : [...harmsChosen, h]).join(',') || null,
            }}
          >
            {h[0]?.toUpperCase()}
            {h.slice(1)} <b>{harms.get(h) ?? 0}</b>
          </SetTo>
        ))}
      </span>
      {LISTS.map(({ name, list, label }) => {
        const facets = answer.facets[list];
        if (facets.length < 2 && !chosen(name)) return null;
        return (
          <select
            key={name}
            name={name}
            aria-label={label}
            className="filter"
            value={chosen(name) ?? ''}
            onChange={(e) => setQuery({ [name]: e.target.value || null })}
          >
            <option value="">{label}: all</option>
            {facets.map((f) => (
              <option key={f.value} value={f.value}>
                {f.name} ({f.causes})
              </option>
            ))}
          </select>
        );
      })}
      {(answer.muted > 0 || muted) && (
        <SetTo
          role="button"
          className={muted ? 'chip on' : 'chip'}
          aria-pressed={muted !== null}
          changes={{ muted: muted ? null : 'only' }}
        >
          Muted <b>{answer.muted}</b>
        </SetTo>
      )}
      <span className="soft">
        {count(answer.total, 'cause')}, {count(answer.findings, 'finding')}
      </span>
      {any && (
        <SetTo
          role="button"
          className="link"
          changes={{ harm: null, check: null, folder: null, template: null, host: null, search: null, muted: null }}
        >
          Clear filters
        </SetTo>
      )}
    </FilterForm>
  );
}
