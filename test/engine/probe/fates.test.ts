import fs from 'node:fs';
import path from 'node:path';
import writeExcelFile from 'write-excel-file/node';
import { zipSync } from 'fflate';
import { expect } from 'chai';
import { runCommand } from '../../fixtures/commandLine';
import { makeAuthority, servePlanted, type Planted } from '../../../demo/site/planted';
import { tempFolder } from '../../fixtures/temp';

/** Over http alone: no certificate of ours is trusted by a command. */
const site: Planted = ({ url }) => {
  const page = (name: string) => ({ status: 200, body: `<!doctype html><title>${name}</title><p>${name}` });
  if (url === '/') return page('Home');
  if (url === '/plants/tree-fern/') return page('Tree ferns');
  if (url === '/moved') return { status: 301, location: '/plants/tree-fern/' };
  if (url === '/shut-down') return { status: 302, location: '/' };
  if (url === '/round') return { status: 301, location: '/round' };
  if (url === '/sitemap.xml')
    return {
      status: 200,
      headers: { 'content-type': 'application/xml' },
      body: '<urlset><url><loc>http://garden.example/plants/tree-fern/</loc></url></urlset>',
    };
  return { status: 404 };
};

interface Answer {
  total: number;
  groups: { fate: string; count: number }[];
  rows: { address: string; fate: string; nearest: string | null; clicks?: number; end: { url: string } | null }[];
  unread: { count: number };
}

describe('fates of listed addresses', function () {
  this.timeout(180_000);
  let folder: string;
  let remove: () => void;
  let map: string[];
  let close: () => Promise<void>;
  before(async () => {
    ({ folder, remove } = tempFolder('fates'));
    const served = await servePlanted(await makeAuthority(), { 'garden.example': { answer: site } });
    ({ close } = served);
    map = served.map.flatMap((m) => ['--map-host', m]);
  });
  after(async () => {
    await close();
    remove();
  });

  const ask = async (name: string, content: string | Uint8Array, ...more: string[]) => {
    const file = path.join(folder, name);
    fs.writeFileSync(file, content);
    return runCommand('fates', file, '--site', 'http://garden.example/', '--per-second', '0', ...map, ...more);
  };
  const LIST =
    'Page;Klicks\nhttp://garden.example/;1.200\n/old/tree-fern.html;30\n/old/tree-fern.html;12\n/shut-down;4\n/round;1\nhttps://garden.example/;2\nhttps://moss.example/x;9\n-;1\n';

  it('tells what happens to each, adds rows up and names the nearest page', async () => {
    const { code, out } = await ask('list.csv', LIST, '--json');
    expect(code).to.equal(0);
    const answer = JSON.parse(out) as Answer;
    const fate = (address: string) => answer.rows.find((r) => r.address === address);
    expect(answer.total).to.equal(6);
    expect(answer.groups.reduce((n, g) => n + g.count, 0)).to.equal(6);
    expect(answer.unread.count).to.equal(1);
    expect(fate('http://garden.example/')).to.include({ fate: 'http only', clicks: 1200 });
    expect(fate('http://garden.example/old/tree-fern.html')).to.include({
      fate: 'missing',
      clicks: 42,
      nearest: 'http://garden.example/plants/tree-fern/',
    });
    expect(fate('http://garden.example/round')?.fate).to.equal('loop');
    expect(fate('https://garden.example/')?.fate).to.equal('refused');
    expect(fate('https://moss.example/x')?.fate).to.equal('other host');
  });

  it('reads XLSX and zip alike, and writes CSV', async () => {
    const sheet = await writeExcelFile(
      [
        [{ value: 'URL' }, { value: 'Clicks' }],
        [{ value: '/moved' }, { value: 5 }],
      ],
      {},
    ).toBuffer();
    for (const [name, bytes] of [
      ['list.bin', sheet],
      ['list.zip', zipSync({ 'Pages.csv': Buffer.from('URL,Clicks\n/moved,5\n') })],
    ] as const) {
      const { code, out } = await ask(name, bytes, '--csv');
      expect(code, name).to.equal(0);
      expect(out.split('\r\n')[1], name).to.match(/^http:\/\/garden\.example\/moved,http only,/);
    }
  });

  it('says what is wrong with a file', async () => {
    for (const [content, says] of [
      ['', 'empty'],
      ['nothing', 'no address'],
      ['PK\u0003\u0004rubbish', 'damaged'],
      ['<html><body>', 'names no address'],
    ] as const) {
      const { code, err } = await ask('bad', content);
      expect(code, says).to.equal(3);
      expect(err).to.contain(says);
    }
    expect((await ask('ok.csv', LIST, '--column', 'address=Nowhere')).err).to.contain('no column "Nowhere"');
  });
});
