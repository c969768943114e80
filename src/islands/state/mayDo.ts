import { isEnough, type Role } from '../../core/people/roles';

/**
 * Whether the role of whoever looks is enough for something, as the page's layout says; where nobody needs an account it
 * is. For what is drawn in the browser only: elements that the server draws say `data-needs`.
 */
export function mayDo(needed: Role): boolean {
  const { role } = document.body.dataset;
  return role === undefined || isEnough(role as Role, needed);
}
