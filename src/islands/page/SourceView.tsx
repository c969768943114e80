import { useEffect, useMemo, useRef } from 'react';
import { useBench } from '../state/bench';
import { useResource } from '../state/api';
import type { WholeCapture } from '../state/types';
import { count } from '../ui/format';
import { ErrorBox, Loading } from '../ui/parts';
import { cutLine, firstLine, lineMarks } from './sourceLines';
import { sourceEditor, type SourceEditor } from './sourceEditor';

/** The page's source as served, findings marked in the margin, changes of the bench as a diff; read only, never run. */
export default function SourceView({ id, line }: { id: number; line?: number }) {
  const whole = useResource<WholeCapture>(`/api/captures/${id}`);
  if (whole.error) return <ErrorBox error={whole.error} retry={whole.reload} />;
  if (whole.value?.row.id !== id) return <Loading what="Reading the source" />;
  return <Source view={whole.value} line={line} />;
}

function Source({ view, line }: { view: WholeCapture; line?: number }) {
  const bench = useBench();
  const place = useRef<HTMLDivElement>(null);
  const editor = useRef<SourceEditor | undefined>(undefined);
  const { source } = view;
  const marks = useMemo(() => lineMarks(view, bench.chosen), [view, bench.chosen]);
  const found = marks.filter((m) => m.findings.length > 0).length;
  const changed = marks.filter((m) => m.after).length;
  useEffect(() => {
    if (!place.current || source === undefined) return;
    const made = sourceEditor(place.current, source.split('\n').map(cutLine).join('\n'));
    editor.current = made;
    return () => made.close();
  }, [source]);
  useEffect(() => editor.current?.mark(marks), [marks, source]);
  const at = firstLine(marks, line);
  useEffect(() => {
    if (at !== undefined) editor.current?.show(at, line !== undefined);
  }, [at, line, source]);
  if (source === undefined)
    return (
      <p className="soft">
        The page source is not in this capture. Record it with keen-lens record, or export the HAR with contents.
      </p>
    );
  return (
    <>
      <p className="soft small tools">
        <span>
          {found > 0 ? `Findings in ${count(found, 'line')}` : 'No finding points into this source'}
          {changed > 0 ? `; the bench changes ${count(changed, 'line')}` : ''}.
        </span>
        {found > 1 && (
          <>
            <button className="link" onClick={() => editor.current?.step(marks, -1)}>
              Previous
            </button>
            <button className="link" onClick={() => editor.current?.step(marks, 1)}>
              Next
            </button>
          </>
        )}
      </p>
      <div className="source" ref={place} />
    </>
  );
}
