import { expect } from 'chai';
import { CrawlClient } from '../../../src/engine/crawl/client';
import { followRedirects } from '../../../src/engine/crawl/followRedirects';
import { madeSite, type Answer, type MadeSite } from '../../fixtures/site';
import { fastSettings } from '../../fixtures/sweep';

const to = (location: string): Answer => ({ status: 301, headers: { location } });

describe('engine/crawl/followRedirects', () => {
  let site: MadeSite;
  let client: CrawlClient;
  before(async () => {
    site = await madeSite((path) => {
      const far = /^\/far\/(\d+)$/.exec(path);
      if (far) return Number(far[1]) > 0 ? to(`/far/${Number(far[1]) - 1}`) : 'the end';
      const ways: Record<string, Answer> = {
        '/one': to('two#part'),
        '/two': 'the end',
        '/round': to('/about'),
        '/about': to('/round'),
        '/nowhere': to('mailto:fern@fernhollow.example'),
        '/broken': to('http://[::'),
        '/choices': { status: 300, body: 'choose' },
        '/dead': { with: (response) => response.destroy() },
      };
      return ways[path];
    });
    client = new CrawlClient(fastSettings(site.home), () => true, 2000);
  });
  after(async () => {
    await client.close();
    await site.close();
  });
  const follow = (path: string, most?: number) =>
    followRedirects(client, site.home + path, 'text', new AbortController().signal, most);

  it('gives each hop and the last answer, by relative addresses too', async () => {
    const { hops, end, fault } = await follow('one');
    expect(hops.map((h) => [h.url.replace(site.home, '/'), h.status])).to.deep.equal([
      ['/one', 301],
      ['/two', 200],
    ]);
    expect(end).to.include({ url: `${site.home}two` });
    expect(end?.answer.text).to.equal('the end');
    expect(fault).to.equal(undefined);
  });

  it('takes a redirect without an address for an answer', async () => {
    expect((await follow('choices')).end?.answer.status).to.equal(300);
  });

  it('goes as far as a browser and no further', async () => {
    expect((await follow('far/20')).end?.answer.text).to.equal('the end');
    const { end, fault, hops } = await follow('far/21');
    expect(end).to.equal(undefined);
    expect(fault).to.include({ kind: 'endless', message: 'more than 20 redirects' });
    expect(hops.at(-1)?.fault).to.equal(fault?.message);
    expect((await follow('far/5', 5)).end?.answer.status).to.equal(200);
    expect((await follow('far/6', 5)).fault?.kind).to.equal('endless');
  });

  const faults: [string, 'failed' | 'endless', RegExp][] = [
    ['round', 'endless', /circle/],
    ['nowhere', 'endless', /names no address/],
    ['broken', 'endless', /names no address/],
    ['dead', 'failed', /./],
  ];
  for (const [path, kind, message] of faults)
    it(`says where a way ends that has no end: /${path}`, async () => {
      const { end, fault } = await follow(path);
      expect(end).to.equal(undefined);
      expect(fault?.kind).to.equal(kind);
      expect(fault?.message).to.match(message);
    });
});
