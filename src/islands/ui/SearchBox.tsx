import type { RefObject } from 'react';

/** A field that narrows a list; `/` leads to it. */
export function SearchBox(props: {
  what: string;
  value: string;
  onChange: (words: string) => void;
  box: RefObject<HTMLInputElement | null>;
}) {
  const label = `Search ${props.what}`;
  return (
    <input
      ref={props.box}
      type="search"
      placeholder={label}
      aria-label={label}
      value={props.value}
      onChange={(e) => props.onChange(e.target.value)}
    />
  );
}
