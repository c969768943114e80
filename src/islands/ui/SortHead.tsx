import type { ReactNode } from 'react';

/** By which column a table is sorted. */
export interface Sort<C extends string> {
  readonly by: C;
  readonly down: boolean;
}

/** Puts rows into the order of a sort, texts by the alphabet and numbers by size. */
export function sortRows<T, C extends string>(
  rows: readonly T[],
  sort: Sort<C>,
  value: (row: T, by: C) => string | number,
): T[] {
  return [...rows].sort((a, b) => {
    const x = value(a, sort.by);
    const y = value(b, sort.by);
    const order = typeof x === 'string' && typeof y === 'string' ? x.localeCompare(y) : Number(x) - Number(y);
    return sort.down ? -order : order;
  });
}

/** A column's head that sorts by it; a second click turns the order round. */
export function SortHead<C extends string>(props: {
  by: C;
  sort: Sort<C>;
  onSort: (sort: Sort<C>) => void;
  right?: boolean;
  downFirst?: boolean;
  children: ReactNode;
}) {
  const { by, sort, onSort } = props;
  const on = sort.by === by;
  return (
    <th className={props.right ? 'right' : ''} aria-sort={on ? (sort.down ? 'descending' : 'ascending') : 'none'}>
      <button className="link" onClick={() => onSort({ by, down: on ? !sort.down : (props.downFirst ?? false) })}>
        {props.children}
        {on ? (sort.down ? ' ↓' : ' ↑') : ''}
      </button>
    </th>
  );
}
