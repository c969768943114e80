import fs from 'node:fs';
import path from 'node:path';
import { expect } from 'chai';
import { runCommand } from '../../fixtures/commandLine';
import { makeAuthority, servePlanted, type Planted } from '../../../demo/site/planted';
import { tempFolder } from '../../fixtures/temp';

/** Half of a site: one host by http, which sends the other form on for a while only. */
const site: Planted = ({ host, url }) =>
  host.startsWith('www.')
    ? { status: 302, location: `http://garden.example${url}` }
    : url === '/gone'
      ? { status: 404 }
      : url === '/robots.txt'
        ? { status: 200, body: 'User-agent: *\nDisallow: /staff/' }
        : { status: 200, body: '<!doctype html><title>Garden</title>' };

describe('commands that ask a site', function () {
  this.timeout(180_000);
  const temp = tempFolder('commands');
  let map: string[];
  let close: () => Promise<void>;
  before(async () => {
    const served = await servePlanted(await makeAuthority(), {
      'garden.example': { answer: site },
      'www.garden.example': { answer: site },
    });
    ({ close } = served);
    map = served.map.flatMap((m) => ['--map-host', m]);
  });
  after(async () => {
    await close();
    temp.remove();
  });

  it('prints entrances in the shape of the contract, and nothing else on standard output', async () => {
    const hosts = path.join(temp.folder, 'hosts.txt');
    fs.writeFileSync(hosts, 'press.garden.example\n');
    const { code, out } = await runCommand(
      'entrances',
      'garden.example',
      '--hosts',
      hosts,
      '--deep',
      'http://garden.example/visit/',
      ...map,
      '--map-host',
      'press.garden.example=127.0.0.1:9',
      '--json',
    );
    expect(code).to.equal(0);
    const answer = JSON.parse(out) as {
      entrances: { from: string; verdict: string; hops: object[]; error: string | null }[];
    };
    expect(Object.keys(answer)).to.deep.equal(['version', 'askedAt', 'entrances', 'certificates', 'hsts']);
    for (const e of answer.entrances) {
      expect(Object.keys(e)).to.deep.equal(['from', 'family', 'hops', 'end', 'error', 'verdict', 'says']);
      for (const h of e.hops)
        expect(Object.keys(h)).to.have.members(['url', 'status', 'kind', 'permanent', 'ms', 'location']);
    }
    const verdicts = Object.fromEntries(answer.entrances.map((e) => [e.from, e.verdict]));
    expect(verdicts).to.include({
      'http://garden.example/': 'http only',
      'https://garden.example/': 'refused',
      'http://www.garden.example/': 'http only',
      'http://garden.example/visit/': 'http only',
      'https://press.garden.example/': 'refused',
    });
    expect(verdicts).to.not.have.property('https://www.press.garden.example/');
  });

  it('does not ask for listed addresses that robots.txt asks to leave alone, and says so', async () => {
    const list = path.join(temp.folder, 'staff.csv');
    fs.writeFileSync(list, 'page\nhttp://garden.example/staff/rota\nhttp://garden.example/visit/\n');
    const { out } = await runCommand(
      'fates',
      list,
      '--site',
      'http://garden.example/',
      '--per-second',
      '0',
      ...map,
      '--json',
    );
    const { rows } = JSON.parse(out) as { rows: { address: string; fate: string; says: string }[] };
    const staff = rows.find((r) => r.address.endsWith('/rota'));
    expect(staff).to.include({ fate: 'not asked' });
    expect(staff?.says).to.match(/robots\.txt asks not to/);
    expect(rows.find((r) => r.address.endsWith('/visit/'))?.fate).to.not.equal('not asked');
  });

  it('takes what fates prints as the missing pages of rules', async () => {
    const list = path.join(temp.folder, 'list.txt');
    fs.writeFileSync(list, 'http://garden.example/gone\nhttp://garden.example/visit/\n');
    const home = ['--site', 'http://garden.example/'];
    const fates = await runCommand('fates', list, ...home, ...map, '--csv');
    expect(fates.code).to.equal(0);
    const csv = path.join(temp.folder, 'fates.csv');
    fs.writeFileSync(csv, fates.out);
    const rules = await runCommand('rules', ...home, '--server', 'apache', '--missing', csv, ...map);
    expect(rules.code, rules.err).to.equal(0);
    expect(rules.out).to.contain('RewriteEngine On').and.contain('stays an honest 404');
    expect(rules.out).to.contain('found: http only, refused');
  });

  it('says what is wrong with how it was called', async () => {
    expect((await runCommand('entrances', 'ftp://garden.example/')).code).to.equal(3);
    expect((await runCommand('rules', '--site', 'https://garden.example/')).code).to.equal(2);
    expect((await runCommand('fates', 'nowhere.csv', '--site', 'https://garden.example/')).code).to.equal(3);
    const silent = await runCommand(
      'rules',
      '--site',
      'https://silent.example/',
      '--server',
      'table',
      '--map-host',
      'silent.example=127.0.0.1:9',
      '--map-host',
      'www.silent.example=127.0.0.1:9',
    );
    expect(silent.code).to.equal(4);
    expect(silent.err).to.contain('could not be asked');
  });
});
