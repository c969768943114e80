import type { FieldMetric, FieldRow } from '../../core/field/fieldData';
import { fieldSentence } from '../../core/field/words';
import { useBench } from '../state/bench';
import { To } from '../ui/To';

/** What real visits came to beside a page's forecast: of whom, of when and of how many; nothing where that is not known. */
export function FieldLine({
  row,
  metrics,
  bare,
}: {
  row?: FieldRow;
  metrics?: readonly FieldMetric[];
  /** Without the link to the field data. */
  bare?: boolean;
}) {
  const { base } = useBench();
  const text = row && fieldSentence(row, metrics);
  if (!text) return null;
  return (
    <p className="soft small field-line">
      {text}
      {!bare && (
        <>
          {' '}
          <To className="link" to={`${base}/field`}>
            Field data
          </To>
        </>
      )}
    </p>
  );
}
