import type { RefObject } from 'react';

/** A field that narrows a list; `/` leads to it. */
export function SearchBox(props: {
  what: string;
  value: string;
  onChange: (words: string) => void;
  box: RefObject<HTMLInputElement | null>;
  /** Parameter of the address that holds the words, where one does. */
  name?: string;
}) {
  const label = `Search ${props.what}`;
  return (
    <input
      ref={props.box}
      type="search"
      name={props.name}
      placeholder={label}
      aria-label={label}
      value={props.value}
      onChange={(e) => props.onChange(e.target.value)}
    />
  );
}
