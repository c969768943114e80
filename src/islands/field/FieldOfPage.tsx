import { FIELD_METRICS, FIELD_NAMES, ratingOf, type FieldRow } from '../../core/field/fieldData';
import { useResource } from '../state/api';
import { useBench } from '../state/bench';
import { count, ms } from '../ui/format';
import { To } from '../ui/To';

/** What real visits to a page came to, of when and of how many; nothing where that is not known. */
export function FieldOfPage({ page, device }: { page: string; device: 'phone' | 'desktop' }) {
  const { siteId, base } = useBench();
  const found = useResource<FieldRow | null>(
    `/api/sites/${siteId}/field/page?page=${encodeURIComponent(page)}&device=${device}`,
  );
  const row = found.value;
  if (!row) return null;
  const of = row.of === 'page' ? 'to this page' : 'to the whole origin';
  return (
    <section>
      <h2>Real visits {of}</h2>
      <dl>
        {FIELD_METRICS.flatMap((metric) => {
          const value = row.p75[metric];
          return value === undefined
            ? []
            : [
                <dt key={metric}>{FIELD_NAMES[metric]}</dt>,
                <dd key={`${metric} value`}>
                  {metric === 'cls' ? value.toFixed(2) : ms(value)}, {ratingOf(metric, value)}
                </dd>,
              ];
        })}
      </dl>
      <p className="soft small">
        p75 of {row.device === 'all' ? 'all devices' : row.device}
        {row.month && `, ${row.month}`}
        {row.visits !== undefined && `, ${count(row.visits, 'visit')}`}.{' '}
        <To className="link" to={`${base}/field`}>
          Field data
        </To>
      </p>
    </section>
  );
}
