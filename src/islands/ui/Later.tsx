import { Suspense, type ReactNode } from 'react';
import { useAwake } from '../state/api';

/** What is fetched when it is wanted: never on the server, which would have to send scripts that our policy forbids. */
export function Later({ fallback, children }: { fallback?: ReactNode; children: ReactNode }) {
  return useAwake() ? <Suspense fallback={fallback}>{children}</Suspense> : fallback;
}
