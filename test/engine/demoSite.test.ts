import { expect } from 'chai';
import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import { HOSTS, hostMap, type DemoHost } from '../../demo/site/hosts';
import { PAGES } from '../../demo/site/pages';
import { PICTURE_CACHE, serveDemo, type DemoSite } from '../../demo/site/serve';
import { parseDocument } from '../../src/core/source/document';
import { listMentions } from '../../src/core/source/mentions';

interface Got {
  readonly status: number;
  readonly headers: http.IncomingHttpHeaders;
  readonly body: Buffer;
}

const host = (name: string): DemoHost => {
  const found = HOSTS.find((h) => h.name === name);
  if (!found) throw new Error(name);
  return found;
};

describe('demo/site', () => {
  let site: DemoSite;
  before(async function () {
    this.timeout(240_000);
    site = await serveDemo(PICTURE_CACHE);
  });
  after(() => site.close());

  const get = (name: string, path: string, secure = true, headers: Record<string, string> = {}): Promise<Got> =>
    new Promise((done, fail) => {
      const h = host(name);
      const options = {
        host: h.address,
        servername: name,
        path,
        headers: { host: name, ...headers },
        rejectUnauthorized: false,
        agent: false as const,
      };
      const answer = (r: http.IncomingMessage) => {
        const parts: Buffer[] = [];
        r.on('data', (d: Buffer) => parts.push(d));
        r.on('end', () => done({ status: r.statusCode ?? 0, headers: r.headers, body: Buffer.concat(parts) }));
      };
      const request = secure
        ? https.get({ ...options, port: site.ports.https }, answer)
        : http.get({ ...options, port: site.ports.http }, answer);
      request.on('error', fail);
    });

  it('gives each host an address of its own and a line in the map', () => {
    expect(new Set(HOSTS.map((h) => h.address)).size).to.equal(HOSTS.length);
    expect(hostMap({ http: 80, https: 443 })).to.include('www.fernhollow.example:443=127.0.77.2:443');
    expect(site.map).to.have.length(HOSTS.length * 2);
  });

  it('leads in by two temporary hops, as planted', async () => {
    const first = await get('fernhollow.example', '/visit/', false);
    expect([first.status, first.headers.location]).to.deep.equal([302, 'http://www.fernhollow.example/visit/']);
    const second = await get('www.fernhollow.example', '/visit/', false);
    expect([second.status, second.headers.location]).to.deep.equal([302, 'https://www.fernhollow.example/visit/']);
    expect((await get('www.fernhollow.example', '/visit/')).status).to.equal(200);
  });

  it('speaks HTTP/2 where it says so, and HTTP/1.1 elsewhere', async () => {
    for (const h of HOSTS) {
      const agreed = await new Promise<string>((done) => {
        const session = http2.connect(`https://${h.address}:${site.ports.https}`, {
          rejectUnauthorized: false,
          servername: h.name,
        });
        session.on('connect', (s) => {
          done((session.alpnProtocol ?? 'none') || 'none');
          session.destroy();
          void s;
        });
        session.on('error', () => done('none'));
      });
      expect(agreed === 'h2', h.name).to.equal(h.protocol === 'h2');
    }
  });

  it('compresses what it should and leaves what is planted uncompressed', async () => {
    const coding = async (name: string, path: string) =>
      (await get(name, path, true, { 'accept-encoding': 'gzip' })).headers['content-encoding'];
    expect(await coding('www.fernhollow.example', '/css/site.css')).to.equal('gzip');
    expect(await coding('www.fernhollow.example', '/css/frame.css')).to.equal(undefined);
    expect(await coding('www.fernhollow.example', '/js/kit.js')).to.equal(undefined);
    expect(await coding('tickets.fernhollow.example', '/css/site.css')).to.equal(undefined);
    expect((await get('www.fernhollow.example', '/css/site.css')).headers['content-encoding']).to.equal(undefined);
  });

  it('answers every load that its pages name, and 404 for others', async () => {
    for (const page of PAGES) {
      const base = `https://${page.host}.fernhollow.example${page.path}`;
      const loads = listMentions(parseDocument(page.html, base)).filter((m) => m.use === 'load' || m.use === 'hint');
      expect(loads.length, page.path).to.be.above(2);
      for (const m of loads) {
        const url = new URL(m.url);
        const r = await get(url.hostname, url.pathname, url.protocol === 'https:');
        expect([200, 301, 302], `${page.path} names ${m.url}`).to.include(r.status);
        expect(r.body.length > 0 || r.status > 200, m.url).to.equal(true);
      }
    }
    expect((await get('www.fernhollow.example', '/nothing')).status).to.equal(404);
    expect((await get('media.fernhollow.example', '/p/../../../etc/passwd')).status).to.equal(404);
  });

  it('names nothing but made-up hosts', () => {
    for (const page of PAGES) {
      for (const [, name] of page.html.matchAll(/https?:\/\/([a-z0-9.-]+)/gi)) expect(name).to.match(/\.example$/);
    }
  });
});
