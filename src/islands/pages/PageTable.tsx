import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';
import type { PageRow } from '../../engine/store/pageList';
import { Term } from '../ui/parts';
import type { Column } from './columns';
import type { PageWindows } from './usePageWindows';

const ROW = 44;

/** The rows of a sweep; only those in view are drawn. */
export function PageTable(props: {
  windows: PageWindows;
  columns: readonly Column[];
  sort: string;
  descending: boolean;
  at: number;
  onSort: (key: string, descending: boolean) => void;
  onOpen: (row: PageRow) => void;
  extra: (row: PageRow) => { template?: string; hero?: ReactNode };
}) {
  const { windows, columns, at } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const total = windows.total ?? 0;
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW,
    overscan: 12,
    // What is drawn before the table has a size: a screenful.
    initialRect: { width: 800, height: 560 },
  });
  const items = virtual.getVirtualItems();
  const first = items[0]?.index ?? 0;
  const last = items.at(-1)?.index ?? 0;
  const { need } = windows;
  useEffect(() => {
    if (total > 0) need(first, last);
  }, [first, last, total, need]);
  useEffect(() => {
    if (at >= 0 && at < total) virtual.scrollToIndex(at, { align: 'auto' });
  }, [at, total, virtual]);
  const grid = { gridTemplateColumns: columns.map((c) => `minmax(${c.width}px, ${c.width}fr)`).join(' ') };
  const width = columns.reduce((n, c) => n + c.width + 12, 0);
  return (
    <div
      className={windows.stale ? 'page-table stale' : 'page-table'}
      ref={scroller}
      role="table"
      aria-label="Pages"
      aria-rowcount={total + 1}
      tabIndex={0}
    >
      <div className="head" role="row" style={{ ...grid, minWidth: width }}>
        {columns.map((c) => (
          <Head key={c.key} column={c} {...props} />
        ))}
      </div>
      <div role="rowgroup" style={{ height: virtual.getTotalSize(), minWidth: width, position: 'relative' }}>
        {items.map((item) => {
          const row = windows.row(item.index);
          return (
            <div
              key={item.key}
              role="row"
              aria-rowindex={item.index + 2}
              className={item.index === at ? 'row at' : 'row'}
              style={{ ...grid, transform: `translateY(${item.start}px)` }}
              onClick={() => row && props.onOpen(row)}
            >
              {row ? (
                <Cells row={row} columns={columns} extra={props.extra(row)} onOpen={props.onOpen} />
              ) : (
                <span className="soft" role="cell">
                  …
                </span>
              )}
            </div>
          );
        })}
      </div>
    </div>
  );
}

function Cells(props: {
  row: PageRow;
  columns: readonly Column[];
  extra: { template?: string; hero?: ReactNode };
  onOpen: (row: PageRow) => void;
}) {
  const { row, extra } = props;
  return props.columns.map((c) => (
    <div key={c.key} role="cell" className={c.right ? 'right' : ''}>
      {c.key === 'page' ? (
        <button className="open" onClick={(e) => (e.stopPropagation(), props.onOpen(row))}>
          {c.cell(row, extra)}
        </button>
      ) : (
        c.cell(row, extra)
      )}
    </div>
  ));
}

function Head(props: {
  column: Column;
  sort: string;
  descending: boolean;
  onSort: (key: string, descending: boolean) => void;
}) {
  const { column: c, sort, descending } = props;
  const key = c.key === 'page' ? 'url' : c.key;
  const on = key === sort;
  const name = c.means ? <Term means={c.means}>{c.name}</Term> : c.name;
  return (
    <div
      role="columnheader"
      className={c.right ? 'right' : ''}
      aria-sort={on ? (descending ? 'descending' : 'ascending') : 'none'}
    >
      {c.key === 'hero' ? (
        name
      ) : (
        <button className="link" onClick={() => props.onSort(key, on ? !descending : (c.down ?? false))}>
          {name}
          {on ? (descending ? ' ↓' : ' ↑') : ''}
        </button>
      )}
    </div>
  );
}
