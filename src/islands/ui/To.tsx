import type { ComponentProps } from 'react';
import { useHref } from '../state/location';

/** A link to another screen: it keeps the visitor, and within a site the sweep and the bench. */
export function To({ to, ...rest }: { to: string } & Omit<ComponentProps<'a'>, 'href'>) {
  const href = useHref();
  return <a href={href(to)} {...rest} />;
}
