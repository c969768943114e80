import { expect } from 'chai';
import { Gate, type Arrival } from '../../src/server/gate';

const basic = (password: string) => `Basic ${Buffer.from(`anybody:${password}`).toString('base64')}`;
const arrival = (headers: Record<string, string>, more: Partial<Arrival> = {}): Arrival => ({
  method: 'GET',
  path: '/',
  address: '10.1.1.1',
  header: (name) => headers[name],
  ...more,
});

describe('server/gate', () => {
  it('asks for the password and lets it pass, colons and all', () => {
    const gate = new Gate('fern:1');
    expect(gate.check(arrival({}))?.status).to.equal(401);
    expect(gate.check(arrival({ authorization: basic('moss') }))?.status).to.equal(401);
    expect(gate.check(arrival({ authorization: basic('fern:1') }))).to.equal(undefined);
  });

  it('lets a shared report be read without the password, and nothing beside it', () => {
    const gate = new Gate('fern');
    const token = 'a'.repeat(32);
    const at = (path: string, method = 'GET') => gate.check(arrival({}, { path, method }))?.status;
    expect(at(`/shared/${token}`)).to.equal(undefined);
    for (const path of [
      '/shared/',
      `/shared/${token}/..`,
      `/shared/${token}%2f..%2fapi`,
      `/shared/${'a'.repeat(31)}`,
      '/api/sites',
    ])
      expect(at(path), path).to.equal(401);
    expect(at(`/shared/${token}`, 'DELETE')).to.equal(401);
  });

  it('lets who guesses wait longer each time, and nobody else', () => {
    let now = 0;
    const gate = new Gate('fern', () => now);
    const guess = (password: string, address = '10.1.1.1') =>
      gate.check(arrival({ authorization: basic(password) }, { address }));
    for (let i = 0; i < 4; i++) expect(guess('moss')?.status).to.equal(401);
    const waits: number[] = [];
    for (let i = 0; i < 12; i++) {
      expect(guess('moss')?.status).to.equal(401);
      const refused = guess('fern');
      expect(refused?.status).to.equal(429);
      waits.push(Number(refused?.headers['retry-after']));
      now += (waits.at(-1) ?? 0) * 1000;
    }
    expect(waits.slice(0, 4)).to.deep.equal([1, 2, 4, 8]);
    expect(Math.max(...waits)).to.equal(300);
    expect(guess('fern', '10.2.2.2')).to.equal(undefined);
    expect(guess('fern')).to.equal(undefined);
  });

  it('does not count a request without a password as a guess', () => {
    const gate = new Gate('fern');
    for (let i = 0; i < 50; i++) expect(gate.check(arrival({}))?.status).to.equal(401);
    expect(gate.check(arrival({ authorization: basic('fern') }))).to.equal(undefined);
  });

  it('without a password answers to its own host names only', () => {
    const gate = new Gate(undefined);
    for (const host of ['localhost:4270', '127.0.0.1:4270', '[::1]:80'])
      expect(gate.check(arrival({ host }))).to.equal(undefined);
    for (const host of ['evil.example', 'localhost.evil.example', ''])
      expect(gate.check(arrival({ host }))?.status).to.equal(403);
  });

  it('takes changes from its own pages only', () => {
    const gate = new Gate(undefined);
    const post = (headers: Record<string, string>) =>
      gate.check(arrival({ host: 'localhost:4270', ...headers }, { method: 'POST' }))?.status;
    expect(post({})).to.equal(undefined);
    expect(post({ origin: 'http://localhost:4270', 'sec-fetch-site': 'same-origin' })).to.equal(undefined);
    const foreign: Record<string, string>[] = [
      { origin: 'http://localhost:9' },
      { origin: 'null' },
      { 'sec-fetch-site': 'same-site' },
    ];
    for (const headers of foreign) expect(post(headers)).to.equal(403);
  });
});
