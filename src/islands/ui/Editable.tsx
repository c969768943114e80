import type { ReactNode } from 'react';
import type { Role } from '../../core/people/roles';

/** A field for those whose role lets them change something; for all others what it says. */
export function Editable({ needs, says, children }: { needs: Role; says: ReactNode; children: ReactNode }) {
  return (
    <>
      <span data-needs={needs}>{children}</span>
      <span data-without={needs}>{says}</span>
    </>
  );
}
