import type { ReactNode } from 'react';
import { useLocation } from '../state/location';

/**
 * Fields that narrow a list. Here each works as it is changed; without JavaScript they are sent as parameters of the
 * address, along with those that stay.
 */
export function FilterForm({ fields, children }: { fields: readonly string[]; children: ReactNode }) {
  const { query } = useLocation();
  return (
    <form className="tools" method="get" onSubmit={(e) => e.preventDefault()}>
      {[...query]
        .filter(([name]) => !fields.includes(name))
        .map(([name, value]) => (
          <input key={name} type="hidden" name={name} value={value} />
        ))}
      {children}
      <button className="put without-script">Apply</button>
    </form>
  );
}
