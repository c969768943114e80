import { array, number, object, string } from 'yup';
import { ROLES, type Role, type Roles } from '../../../core/people/roles';

const SITE_ROLES = ROLES.filter((r) => r !== 'administrator');

/** Roles of an account: one on all sites, others on single ones. */
export const rolesSchema = object({
  everywhere: string()
    .oneOf([...ROLES, ''], `A role is one of ${ROLES.join(', ')}.`)
    .default(''),
  sites: array(
    object({
      siteId: number().integer().min(1).required('Say which site.'),
      role: string()
        .oneOf(SITE_ROLES, `A role on a site is one of ${SITE_ROLES.join(', ')}.`)
        .required(),
    }),
  )
    .max(2000)
    .default([]),
});

/** The roles of a checked request; of two for a site the last counts. */
export function rolesOf(value: { everywhere: string; sites: readonly { siteId: number; role: string }[] }): Roles {
  const sites = new Map(value.sites.map((s) => [s.siteId, s.role as Exclude<Role, 'administrator'>]));
  return {
    everywhere: value.everywhere === '' ? undefined : (value.everywhere as Role),
    sites: [...sites].map(([siteId, role]) => ({ siteId, role })),
  };
}
