import type { ComponentProps } from 'react';
import { setQuery, useLocation } from '../state/location';

/** Parameters of an address to change; null removes one. */
type Changes = Readonly<Record<string, string | null>>;

/**
 * A link that changes parameters of the address at hand: a tab, a filter, a switch. Here it does so in place; without
 * JavaScript it asks for the page with them. Give it the role that it has for its reader.
 */
export function SetTo({ changes, ...rest }: { changes: Changes } & Omit<ComponentProps<'a'>, 'href' | 'onClick'>) {
  const { path, query } = useLocation();
  const next = new URLSearchParams(query);
  for (const [name, value] of Object.entries(changes)) {
    if (value === null) next.delete(name);
    else next.set(name, value);
  }
  const search = next.toString();
  return (
    <a
      href={search ? `${path}?${search}` : path}
      onClick={(e) => {
        // Another tab or window is the browser's affair.
        if (e.ctrlKey || e.metaKey || e.shiftKey || e.button !== 0) return;
        e.preventDefault();
        setQuery(changes);
      }}
      onKeyDown={(e) => {
        // Whatever is no link for its reader is pressed with the space bar too.
        if (e.key !== ' ' || !rest.role) return;
        e.preventDefault();
        setQuery(changes);
      }}
      {...rest}
    />
  );
}
