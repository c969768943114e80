import { expect } from 'chai';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { WARM_UP, warmUp } from '../../src/server/warmUp';

const SITES = {
  sites: [
    { id: 1, sweep: { day: '2026-11-05' } },
    { id: 2 },
    { id: 3, sweep: { day: '2026-11-26' } },
    { id: 4, sweep: { day: '2026-10-01' } },
  ],
};

describe('server/warmUp', () => {
  let server: http.Server;
  let origin = '';
  let asked: string[] = [];
  let answer: (path: string) => [status: number, text: string] = () => [200, ''];

  before(async () => {
    server = http.createServer(({ url = '', headers }, response) => {
      expect(headers['user-agent']).to.equal(WARM_UP);
      asked.push(url);
      const [status, text] = answer(url);
      response.writeHead(status).end(text);
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    origin = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  });
  beforeEach(() => (asked = []));
  after(() => new Promise((done) => server.close(done)));

  it('draws screens of the two sites that were swept last, the latest one first', async () => {
    answer = (path) => [200, path === '/api/sites' ? JSON.stringify(SITES) : ''];
    await warmUp(origin, () => true);
    expect(asked.slice(0, 3)).to.deep.equal(['/recorders', '/api/sites', '/sites/3']);
    const sites = asked.slice(2).map((path) => path.split('/')[2]);
    expect([...new Set(sites)]).to.deep.equal(['3', '1']);
    expect(sites.indexOf('1')).to.equal(sites.lastIndexOf('3') + 1);
  });

  it('draws nothing of sites where people have to log in, and survives a server that is going', async () => {
    answer = (path) => [path === '/api/sites' ? 401 : 302, ''];
    await warmUp(origin, () => true);
    expect(asked).to.deep.equal(['/recorders', '/api/sites']);
    await warmUp('http://127.0.0.1:1', () => true);
    answer = () => [200, 'no JSON'];
    await warmUp(origin, () => true);
  });

  it('waits until nobody else asks for anything', async () => {
    answer = (path) => [200, path === '/api/sites' ? JSON.stringify(SITES) : ''];
    let looks = 0;
    await warmUp(origin, () => {
      if (looks < 2) expect(asked).to.deep.equal(['/recorders', '/api/sites']);
      return ++looks > 2;
    });
    expect(looks).to.be.above(2);
    expect(asked.length).to.be.above(3);
  });
});
