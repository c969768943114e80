import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef } from 'react';
import type { Finding } from '../../core/checks/finding';
import { useBench } from '../state/bench';
import type { CaptureView } from '../state/types';

interface Line {
  readonly n: number;
  readonly text: string;
  readonly kind: 'plain' | 'before' | 'after';
  readonly findings: readonly Finding[];
}

/** The page's source as served, findings marked in the margin, changes of the bench as a diff. */
export function SourceView({ view, line }: { view: CaptureView; line?: number }) {
  const bench = useBench();
  const scroller = useRef<HTMLDivElement>(null);
  const lines = useMemo(() => sourceLines(view, bench.chosen), [view, bench.chosen]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 21,
    overscan: 20,
  });
  useEffect(() => {
    // Without a line asked for: the first change of the bench, else the first finding.
    const changed = lines.findIndex((l) => l.kind === 'before');
    const at =
      line !== undefined
        ? lines.findIndex((l) => l.n === line)
        : changed >= 0
          ? changed
          : lines.findIndex((l) => l.findings.length > 0);
    if (at < 0) return;
    // Rows get their true height once they are drawn: aim again until it stays.
    let left = 4;
    let frame = 0;
    const aim = () => {
      virtual.scrollToIndex(at, { align: 'center' });
      if (--left > 0) frame = requestAnimationFrame(aim);
    };
    aim();
    return () => cancelAnimationFrame(frame);
  }, [line, lines, virtual]);
  if (view.source === undefined)
    return (
      <p className="soft">
        The page source is not in this capture. Record it with keen-lens record, or export the HAR with contents.
      </p>
    );
  return (
    <div className="source mono" ref={scroller} tabIndex={0} aria-label="Source of the page">
      <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const l = lines[item.index] as Line;
          return (
            <div
              key={item.key}
              data-index={item.index}
              ref={virtual.measureElement}
              className={`line ${l.kind} ${l.findings.length > 0 ? 'marked' : ''} ${l.n === line && l.kind !== 'after' ? 'at' : ''}`}
              style={{ transform: `translateY(${item.start}px)` }}
            >
              <span className="no">
                {l.kind === 'before' ? '−' : l.kind === 'after' ? '+' : ''}
                {l.n}
              </span>
              <span className="margin" title={l.findings.map((f) => f.title).join('\n')}>
                {l.findings.length > 0 ? '▸' : ''}
              </span>
              <span className="text">
                {l.text || ' '}
                {l.findings.length > 0 && l.kind !== 'after' && (
                  <span className="note">{l.findings.map((f) => f.title).join(' · ')}</span>
                )}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

function sourceLines(view: CaptureView, chosen: readonly string[]): Line[] {
  const marks = new Map<number, Finding[]>();
  for (const f of view.findings) {
    const s = f.evidence.source;
    if (s?.url === view.row.page) marks.set(s.line, [...(marks.get(s.line) ?? []), f]);
  }
  const changes = new Map<number, { before: string[]; after: string[] }>();
  for (const fix of view.fixes.filter((x) => chosen.includes(x.group))) {
    for (const c of fix.changes)
      if (c.url === view.row.page) changes.set(c.line, { before: c.before.split('\n'), after: c.after.split('\n') });
  }
  const out: Line[] = [];
  (view.source ?? '').split('\n').forEach((text, i) => {
    const n = i + 1;
    const own = changes.get(n);
    const findings = marks.get(n) ?? [];
    const cut = text.length > 2000 ? text.slice(0, 2000) + ' …' : text;
    out.push({ n, text: cut, kind: own ? 'before' : 'plain', findings });
    if (own) for (const after of own.after) out.push({ n, text: after.slice(0, 2000), kind: 'after', findings: [] });
  });
  return out;
}
