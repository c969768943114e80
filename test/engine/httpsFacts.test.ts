import { expect } from 'chai';
import { httpsFacts } from '../../src/engine/store/httpsFacts';
import type { Store } from '../../src/engine/store/store';
import { fastSettings, sweepInto } from '../fixtures/sweep';
import { linking, madeSite, type MadeSite } from '../fixtures/site';
import { tempFolder } from '../fixtures/temp';

describe('engine/store/httpsFacts', () => {
  const temp = tempFolder('https-facts');
  let site: MadeSite;
  let store: Store;
  let sweepId = 0;

  before(async () => {
    site = await madeSite((path) => {
      if (path === '/') return linking('/moss/', '/moved/', '/gone/', '/once/');
      if (path === '/moss/') return linking('/');
      if (path === '/moved/') return { status: 302, headers: { location: '/moved-again/' } };
      if (path === '/moved-again/') return { status: 301, headers: { location: '/moss/' } };
      if (path === '/once/') return { status: 301, headers: { location: '/moss/' } };
      return undefined;
    });
    ({ store, sweepId } = await sweepInto(temp.folder, fastSettings(site.home)));
  });
  after(async () => {
    await store.destroy();
    await site.close();
    temp.remove();
  });

  it('lists pages served over http, temporary redirects and chains, each with its count', async () => {
    const facts = await httpsFacts(store, sweepId);
    const paths = (id: string) =>
      facts?.groups.find((g) => g.id === id)?.rows.map((r) => new URL(r.url).pathname) ?? [];
    expect(paths('http-pages')).to.have.members(['/', '/moss/']);
    expect(paths('temporary')).to.deep.equal(['/moved/']);
    expect(paths('chains')).to.deep.equal(['/moved/']);
    expect(paths('downgrades')).to.deep.equal([]);
    expect(facts?.groups.map((g) => g.total)).to.deep.equal(facts?.groups.map((g) => g.rows.length));
  });

  it('says that a sweep which accepts any certificate knows nothing of certificates', async () => {
    expect((await httpsFacts(store, sweepId))?.anyCertificate).to.equal(true);
    expect(await httpsFacts(store, 999)).to.equal(undefined);
  });
});
