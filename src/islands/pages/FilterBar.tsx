import {
  ANSWER_BANDS,
  FILTER_LISTS,
  PAGE_FACTS,
  PAGE_FLAGS,
  readFact,
  type PageFilter,
  type PageFlag,
} from '../../core/site/pageFilter';
import type { PageSummary } from '../../engine/store/pageSummary';
import { SpreadChart } from '../charts/SpreadChart';
import { Term } from '../ui/parts';
import { SetTo } from '../ui/SetTo';

interface Props {
  readonly filter: PageFilter;
  readonly summary: PageSummary;
  readonly onToggle: (list: (typeof FILTER_LISTS)[number], value: string) => void;
  /** What the address changes by when a part is put in or taken out, and when all are taken out. */
  readonly toggled: (list: (typeof FILTER_LISTS)[number], value: string) => Readonly<Record<string, string | null>>;
  readonly cleared: Readonly<Record<string, string | null>>;
}

/** Spreads and facts of the pages; a click on any of them narrows the list. */
export function FilterBar({ filter, summary, onToggle, toggled, cleared }: Props) {
  const statuses = summary.statuses.map((s) => ({
    ...s,
    label: s.value === 'none' ? 'none' : s.value,
    bad: s.value === 'none' || Number(s.value) >= 400,
  }));
  return (
    <>
      <div className="spreads">
        <SpreadChart
          title="Status"
          width={statuses.length * 40}
          slices={statuses}
          chosen={filter.status ?? []}
          onToggle={(v) => onToggle('status', v)}
        />
        <SpreadChart
          title="Links from the home page"
          width={Math.min(24, summary.depths.length) * 34}
          slices={summary.depths.slice(0, 24).map((d) => ({ ...d, label: d.value, bad: d.value === 'none' }))}
          chosen={filter.depth ?? []}
          onToggle={(v) => onToggle('depth', v)}
        />
        <SpreadChart
          title="Response time, ms"
          width={270}
          slices={summary.answers.map((a) => ({ ...a, label: bandName(a.value) }))}
          chosen={filter.answer ?? []}
          onToggle={(v) => onToggle('answer', v)}
        />
      </div>
      <div className="flags">
        {summary.flags
          .filter((f) => f.pages > 0 || filter.flag?.includes(f.value as PageFlag))
          .map((f) => {
            const flag = PAGE_FLAGS[f.value as PageFlag];
            const on = filter.flag?.includes(f.value as PageFlag) ?? false;
            return (
              <SetTo
                key={f.value}
                role="button"
                className={on ? 'chip on' : 'chip'}
                aria-pressed={on}
                title={flag.means}
                changes={toggled('flag', f.value)}
              >
                {flag.name} <b>{f.pages.toLocaleString('en-GB')}</b>
              </SetTo>
            );
          })}
      </div>
      <Chosen filter={filter} summary={summary} toggled={toggled} cleared={cleared} />
    </>
  );
}

/** What the list is narrowed by; each part can be taken back. */
function Chosen({ filter, summary, toggled, cleared }: Omit<Props, 'onToggle'>) {
  const parts = FILTER_LISTS.flatMap((list) => (filter[list] ?? []).map((value) => ({ list, value })));
  if (parts.length === 0) return null;
  return (
    <p className="chosen">
      <span className="soft">Only</span>
      {parts.map(({ list, value }) => (
        <SetTo
          key={`${list} ${value}`}
          role="button"
          className="chip on"
          aria-label={`Remove filter: ${nameOf(list, value, summary)}`}
          changes={toggled(list, value)}
        >
          {nameOf(list, value, summary)} <span aria-hidden>×</span>
        </SetTo>
      ))}
      <SetTo role="button" className="link" changes={cleared}>
        Clear filters
      </SetTo>
    </p>
  );
}

function nameOf(list: (typeof FILTER_LISTS)[number], value: string, summary: PageSummary): string {
  switch (list) {
    case 'flag':
      return PAGE_FLAGS[value as PageFlag].name;
    case 'template':
      return `template ${summary.templates.find((t) => t.value === value)?.name ?? value}`;
    case 'answer':
      return `answer ${value.endsWith('-') ? `over ${value.slice(0, -1)}` : value.replace('-', '–')} ms`;
    case 'depth':
      return value === 'none' ? 'not reached by links' : `depth ${value}`;
    case 'status':
      return value === 'none' ? 'no status' : `status ${value}`;
    case 'folder':
      return `folder ${value}`;
    case 'fact': {
      const fact = readFact(value);
      return fact ? `${PAGE_FACTS[fact.name].toLowerCase()} ${fact.value || 'none'}` : value;
    }
    case 'state':
      return value;
  }
}

function bandName(name: string): string {
  const band = ANSWER_BANDS.find((b) => b.name === name);
  if (!band) return name;
  if (!Number.isFinite(band.to)) return `${band.from}+`;
  return `to ${band.to}`;
}

/** The sum line over a list. */
export function Total({ total, all }: { total: number; all: number }) {
  return (
    <Term means="Addresses of this sweep: pages, redirects, and what failed or was left out.">
      {total === all
        ? `${all.toLocaleString('en-GB')} addresses`
        : `${total.toLocaleString('en-GB')} of ${all.toLocaleString('en-GB')} addresses`}
    </Term>
  );
}
