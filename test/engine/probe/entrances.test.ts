import { expect } from 'chai';
import os from 'node:os';
import { probeTargets, type Entrance } from '../../../src/core/site/entrances';
import { defaultSettings } from '../../../src/core/site/settings';
import { probeEntrances, type ProbeReport } from '../../../src/engine/probe/probeEntrances';
import { issue, makeAuthority, servePlanted, type Authority, type Planted } from '../../../demo/site/planted';

/** Some machines have no IPv6, not even on loopback. */
const hasIPv6 = Object.values(os.networkInterfaces()).some((all) => all?.some((a) => a.address === '::1'));

const page = (name: string) => `<!doctype html><title>${name}</title><p>Welcome to the ${name}.</p>`;
const ok = (name: string, headers: Record<string, string> = {}): ReturnType<Planted> => ({
  status: 200,
  body: page(name),
  headers,
});
const to = (location: string, status = 301): ReturnType<Planted> => ({ status, location });

/** Sends everything to one secure address in one permanent hop, except as `odd` says. */
const properly =
  (
    home: string,
    odd: Planted | ((at: Parameters<Planted>[0]) => ReturnType<Planted> | undefined) = () => undefined,
  ): Planted =>
  (at) =>
    odd(at) ??
    (at.url === '/visit' ? to(`https://${home}/visit/`) : undefined) ??
    (at.secure && at.host === home ? ok(`garden${at.url.split('?')[0]}`) : to(`https://${home}${at.url}`));

describe('probes of entrances', function () {
  this.timeout(180_000);
  let authority: Authority;
  let report: ProbeReport;
  let close: () => Promise<void>;
  const at = (from: string): Entrance => {
    const found = report.entrances.find((e) => e.from === from);
    if (!found) throw new Error(`${from} was not asked for`);
    return found;
  };
  const verdict = (from: string) => at(from).verdict;

  before(async () => {
    authority = await makeAuthority();
    const cert = (host: string, options?: Parameters<typeof issue>[2]) =>
      issue(authority, [host, `www.${host}`], options);
    const both = async (host: string, answer: Planted) => {
      const certificate = await cert(host);
      return { [host]: { answer, certificate }, [`www.${host}`]: { answer, certificate } };
    };
    const site = await servePlanted(authority, {
      ...(await both(
        'good.example',
        properly('www.good.example', (a) =>
          a.secure && a.url === '/robots.txt'
            ? {
                status: 200,
                headers: { 'content-type': 'text/plain' },
                body: 'User-agent: *\nDisallow: /staff/\nSitemap: http://www.good.example/sitemap.xml\n',
              }
            : undefined,
        ),
      )),
      ...(await both(
        'temporary.example',
        properly('www.temporary.example', (a) =>
          a.secure ? undefined : to(`https://www.temporary.example${a.url}`, 302),
        ),
      )),
      ...(await both(
        'chain.example',
        properly('www.chain.example', (a) =>
          !a.secure && a.host === 'chain.example' ? to(`https://chain.example${a.url}`) : undefined,
        ),
      )),
      ...(await both('loop.example', (a) =>
        to(a.secure ? `https://www.loop.example${a.url}` : `http://loop.example${a.url}`),
      )),
      ...(await both('down.example', (a) => (a.secure ? to(`http://${a.host}${a.url}`) : ok('down')))),
      ...(await both('double.example', (a) =>
        a.host === 'www.double.example' && !a.secure ? to(`https://www.double.example${a.url}`) : ok('double'),
      )),
      ...(await both(
        'lost.example',
        properly('www.lost.example', (a) => (a.secure ? undefined : to('https://www.lost.example/'))),
      )),
      ...(await both(
        'query.example',
        properly('www.query.example', (a) =>
          a.secure ? undefined : to(`https://www.query.example${a.url.split('?')[0]}`),
        ),
      )),
      ...(await both(
        'meta.example',
        properly('www.meta.example', (a) =>
          a.secure
            ? undefined
            : {
                status: 200,
                body: '<!doctype html><meta http-equiv="refresh" content="0; url=https://www.meta.example/">',
              },
        ),
      )),
      'script.example': {
        answer: (a) =>
          a.secure
            ? ok(a.url === '/' ? '<script>location = "/home/"</script>' : 'script')
            : to(`https://script.example${a.url}`),
        certificate: await cert('script.example'),
      },
      'plain.example': { answer: () => ok('plain'), shut: ['https'] },
      'gone.example': {
        answer: () => ({ status: 404, body: page('nothing') }),
        certificate: await cert('gone.example'),
      },
      'expired.example': {
        answer: properly('expired.example'),
        certificate: await cert('expired.example', { from: -90, to: -3 }),
      },
      'early.example': {
        answer: properly('early.example'),
        certificate: await cert('early.example', { from: 5, to: 60 }),
      },
      'soon.example': { answer: properly('soon.example'), certificate: await cert('soon.example', { to: 5.5 }) },
      'other.example': {
        answer: properly('other.example'),
        certificate: await issue(authority, ['elsewhere.example']),
      },
      'self.example': { answer: properly('self.example'), certificate: await cert('self.example', { self: true }) },
      'leaf.example': { answer: properly('leaf.example'), certificate: await cert('leaf.example'), leafOnly: true },
      'weak.example': { answer: properly('weak.example'), certificate: await cert('weak.example', { keySize: 1024 }) },
      'old.example': {
        answer: (a) =>
          a.secure ? ok('old', { 'strict-transport-security': 'max-age=86400' }) : to(`https://old.example${a.url}`),
        certificate: await cert('old.example'),
        versions: { minVersion: 'TLSv1', maxVersion: 'TLSv1.2' },
      },
      ...(hasIPv6 && {
        'six.example': { answer: properly('six.example'), certificate: await cert('six.example'), family: 'IPv6' },
      }),
    });
    ({ close } = site);
    const named = ['good', 'temporary', 'chain', 'loop', 'down', 'double', 'lost', 'query', 'meta'];
    const alone = ['script', 'plain', 'gone', 'expired', 'early', 'soon', 'other', 'self', 'leaf', 'weak', 'old'];
    if (hasIPv6) alone.push('six');
    report = await probeEntrances(
      probeTargets(
        [
          ...named.map((n) => ({ url: `https://www.${n}.example/` })),
          ...alone.map((n) => ({ url: `https://${n}.example/`, alone: true })),
        ],
        ['good', 'lost', 'query'].map((n) => `https://www.${n}.example/visit/`),
      ),
      {
        settings: { ...defaultSettings('https://www.good.example/'), perSecond: 0, mapHosts: site.map },
        roots: [authority.root.cert],
        byScript: new Map([['https://script.example/', 'https://script.example/home/']]),
        signal: new AbortController().signal,
      },
    );
  });
  after(() => close());

  it('finds nothing wrong where every way leads to one address in one permanent hop', () => {
    const own = report.entrances.filter((e) => e.from.includes('good.example'));
    expect(own.map((e) => e.verdict).filter((v) => v !== 'direct' && v !== 'redirects properly')).to.deep.equal([]);
    expect(verdict('https://www.good.example/')).to.equal('direct');
    expect(verdict('http://good.example/')).to.equal('redirects properly');
    expect(verdict('http://good.example/visit/')).to.equal('redirects properly');
    expect(at('http://good.example/').hops.map((h) => [h.url, h.status, h.permanent, h.location])).to.deep.equal([
      ['http://good.example/', 301, true, 'https://www.good.example/'],
      ['https://www.good.example/', 200, false, null],
    ]);
  });

  it('asks over IPv6 where a host is reached by it', function () {
    if (!hasIPv6) this.skip();
    const own = report.entrances.filter((e) => e.from.includes('six.example'));
    expect(own.map((e) => [e.from, e.family, e.verdict])).to.deep.equal([
      ['http://six.example/', 'IPv6', 'redirects properly'],
      ['https://six.example/', 'IPv6', 'direct'],
    ]);
    expect(report.certificates.find((c) => c.host === 'six.example')?.faults).to.deep.equal([]);
    expect(report.entrances.filter((e) => e.family === 'IPv6')).to.have.length(own.length);
  });

  it('reads the robots.txt of the home host at its secure address', () => {
    expect(report.robots).to.deep.equal({
      url: 'https://www.good.example/robots.txt',
      fault: undefined,
      allowsHome: true,
      sitemaps: ['http://www.good.example/sitemap.xml'],
    });
  });

  it('names what is wrong with the others', () => {
    expect(verdict('http://temporary.example/')).to.equal('temporary');
    expect(verdict('http://chain.example/')).to.equal('chain');
    expect(verdict('http://www.chain.example/')).to.equal('redirects properly');
    expect(verdict('http://loop.example/')).to.equal('loop');
    expect(verdict('https://www.loop.example/')).to.equal('loop');
    expect(verdict('https://down.example/')).to.equal('downgrade');
    expect(verdict('http://down.example/')).to.equal('http only');
    expect(verdict('https://double.example/')).to.equal('duplicate');
    expect(verdict('http://double.example/')).to.equal('duplicate');
    expect(verdict('https://www.double.example/')).to.equal('direct');
    expect(verdict('http://meta.example/')).to.equal('temporary');
    expect(at('http://meta.example/').hops[0]?.kind).to.equal('meta');
    expect(verdict('http://plain.example/')).to.equal('http only');
    expect(verdict('https://plain.example/')).to.equal('refused');
    expect(verdict('https://gone.example/')).to.equal('missing');
  });

  it('follows a script as far as recordings have shown where it leads', () => {
    const own = at('https://script.example/');
    expect(own.hops.map((h) => [h.url, h.status, h.kind, h.location])).to.deep.equal([
      ['https://script.example/', 200, 'script', 'https://script.example/home/'],
      ['https://script.example/home/', 200, 'http', null],
    ]);
    expect(own.says).to.contain('(script, as recorded)');
    expect(verdict('https://script.example/')).to.equal('temporary');
  });

  it('sees a path and a query that get lost on the way', () => {
    expect(verdict('http://www.lost.example/')).to.equal('redirects properly');
    expect(verdict('http://www.lost.example/visit/')).to.equal('path lost');
    expect(at('http://www.lost.example/visit/').says).to.contain('home page');
    expect(verdict('http://www.query.example/visit/')).to.equal('redirects properly');
    expect(verdict('http://www.query.example/visit/?keen-lens=kept')).to.equal('path lost');
  });

  it('finds the faults of certificates, and none where there is none', () => {
    const faults = Object.fromEntries(report.certificates.map((c) => [c.host, c.faults]));
    expect(faults).to.deep.include({
      'www.good.example': [],
      'expired.example': ['expired'],
      'early.example': ['not yet valid'],
      'soon.example': ['ends soon'],
      'other.example': ['wrong name'],
      'self.example': ['self-signed'],
      'leaf.example': ['incomplete chain'],
      'weak.example': ['weak key'],
      'old.example': ['old protocol'],
    });
    for (const host of ['expired', 'early', 'other', 'self', 'leaf'])
      expect(verdict(`https://${host}.example/`), host).to.equal('certificate');
    const soon = report.certificates.find((c) => c.host === 'soon.example');
    expect(soon).to.include({
      daysLeft: 5,
      chain: 'complete',
      key: 'RSA 2048',
      signature: 'sha256WithRSAEncryption',
      oldestTls: 'TLS 1.2',
      newestTls: 'TLS 1.3',
    });
    expect(soon?.covers).to.deep.equal({ bare: true, www: true });
    expect(report.certificates.find((c) => c.host === 'old.example')).to.include({
      oldestTls: 'TLS 1.0',
      newestTls: 'TLS 1.2',
    });
  });

  it('reads HSTS and says what is missing', () => {
    const hsts = report.hsts.find((h) => h.host === 'old.example');
    expect(hsts).to.include({ header: 'max-age=86400', maxAge: 86_400, includeSubDomains: false });
    expect(hsts?.faults.join(' ')).to.contain('only 1 day').and.contain('includeSubDomains');
    expect(report.hsts.find((h) => h.host === 'www.good.example')?.header).to.equal(null);
  });

  it('stops when it is told to', async () => {
    const control = new AbortController();
    control.abort();
    const stopped = await probeEntrances(probeTargets([{ url: 'https://www.good.example/' }], []), {
      settings: { ...defaultSettings('https://www.good.example/'), mapHosts: ['*.good.example=127.0.0.1:9'] },
      signal: control.signal,
    }).then(
      () => 'went on',
      () => 'stopped',
    );
    expect(stopped).to.equal('stopped');
  });

  it('does not ask private addresses unless they are mapped', async () => {
    const { entrances } = await probeEntrances(probeTargets([{ url: 'http://127.0.0.1:1/' }], []), {
      settings: defaultSettings('http://127.0.0.1/'),
      signal: new AbortController().signal,
    });
    expect(entrances[0]?.verdict).to.equal('no answer');
    expect(entrances[0]?.says).to.contain('private address');
  });
});
