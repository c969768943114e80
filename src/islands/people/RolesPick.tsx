import { useState } from 'react';
import { ROLES, type Role, type Roles } from '../../core/people/roles';
import type { SiteName } from './AccountsView';

const SITE_ROLES = ROLES.filter((r) => r !== 'administrator');

/** Picks the roles of an account: on all sites, and on single ones. Saves by a button, or tells each change. */
export function RolesPick(props: {
  roles: Roles;
  sites: readonly SiteName[];
  sitesOnly?: boolean;
  onChange?: (roles: Roles) => void;
  onSave?: (roles: Roles) => void;
  onCancel?: () => void;
}) {
  const [roles, setRoles] = useState<Roles>({ everywhere: props.roles.everywhere, sites: props.roles.sites });
  const set = (next: Roles) => {
    setRoles(next);
    props.onChange?.(next);
  };
  const free = props.sites.filter((s) => !roles.sites.some((r) => r.siteId === s.id));
  return (
    <div className="roles-pick">
      {!props.sitesOnly && (
        <label>
          On all sites{' '}
          <select
            value={roles.everywhere ?? ''}
            onChange={(e) => set({ ...roles, everywhere: (e.target.value || undefined) as Role | undefined })}
          >
            <option value="">none</option>
            {ROLES.map((r) => (
              <option key={r}>{r}</option>
            ))}
          </select>
        </label>
      )}
      {roles.sites.map((r) => {
        const name = props.sites.find((s) => s.id === r.siteId)?.name ?? `site ${r.siteId}`;
        return (
          <div key={r.siteId}>
            <label>
              {name}{' '}
              <select
                value={r.role}
                onChange={(e) => {
                  const role = e.target.value as (typeof r)['role'];
                  set({ ...roles, sites: roles.sites.map((s) => (s.siteId === r.siteId ? { ...s, role } : s)) });
                }}
              >
                {SITE_ROLES.map((role) => (
                  <option key={role}>{role}</option>
                ))}
              </select>
            </label>{' '}
            <button
              type="button"
              className="link soft"
              aria-label={`Remove the role on ${name}`}
              onClick={() => set({ ...roles, sites: roles.sites.filter((s) => s.siteId !== r.siteId) })}
            >
              remove
            </button>
          </div>
        );
      })}
      {free.length > 0 && (
        <select
          aria-label="Give a role on a site"
          value=""
          onChange={(e) =>
            set({ ...roles, sites: [...roles.sites, { siteId: Number(e.target.value), role: 'fixer' as const }] })
          }
        >
          <option value="">give a role on a site …</option>
          {free.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      )}
      {props.onSave && (
        <div>
          <button type="button" className="put" onClick={() => props.onSave?.(roles)}>
            Save the role
          </button>{' '}
          <button type="button" className="link" onClick={props.onCancel}>
            Cancel
          </button>
        </div>
      )}
    </div>
  );
}
