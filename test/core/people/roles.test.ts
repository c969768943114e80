import { expect } from 'chai';
import {
  isEnough,
  passwordFault,
  readingOnly,
  highestRole,
  roleOn,
  ROLES,
  seesSite,
  type Roles,
} from '../../../src/core/people/roles';

describe('core/people/roles', () => {
  const ben: Roles = { sites: [{ siteId: 3, role: 'fixer' }] };

  it('orders roles, of which each may do what those before it may', () => {
    for (const [i, has] of ROLES.entries())
      for (const [j, needed] of ROLES.entries()) expect(isEnough(has, needed)).to.equal(i >= j);
    expect(isEnough(undefined, 'owner')).to.equal(false);
  });

  it('takes the higher of the role everywhere and the one on a site', () => {
    expect(roleOn(ben, 3)).to.equal('fixer');
    expect(roleOn(ben, 4)).to.equal(undefined);
    expect(roleOn({ everywhere: 'owner', sites: ben.sites }, 3)).to.equal('fixer');
    expect(roleOn({ everywhere: 'auditor', sites: ben.sites }, 3)).to.equal('auditor');
    expect(seesSite(ben, 3)).to.equal(true);
    expect(seesSite(ben, 4)).to.equal(false);
  });

  it('knows the highest role that somebody has anywhere', () => {
    expect(highestRole(ben)).to.equal('fixer');
    expect(highestRole({ everywhere: 'auditor', sites: ben.sites })).to.equal('auditor');
    expect(highestRole({ everywhere: 'owner', sites: [{ siteId: 1, role: 'auditor' }, ...ben.sites] })).to.equal(
      'auditor',
    );
    expect(highestRole({ sites: [] })).to.equal(undefined);
  });

  it('leaves of a role its reading', () => {
    expect(readingOnly({ everywhere: 'administrator', sites: [] })).to.deep.equal({ everywhere: 'owner', sites: [] });
    expect(readingOnly(ben)).to.deep.equal({ everywhere: undefined, sites: [{ siteId: 3, role: 'owner' }] });
  });

  it('refuses passwords that are short, simple or have the name in them', () => {
    expect(passwordFault('short', 'ada')).to.contain('12 characters');
    expect(passwordFault('aaaaaaaaaaaaaaaa', 'ada')).to.contain('different');
    expect(passwordFault('my-ada-password', 'Ada')).to.contain('name');
    expect(passwordFault('fern moss lichen bark', 'ada')).to.equal(undefined);
  });
});
