import { VISITORS } from '../../core/load/visitors';

/** The visitor after this one, round and round. */
export function nextVisitor(id: string): string {
  const at = VISITORS.findIndex((v) => v.id === id);
  return (VISITORS[(at + 1) % VISITORS.length] as { id: string }).id;
}
