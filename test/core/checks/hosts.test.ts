import { expect } from 'chai';
import type { HostCertificate } from '../../../src/core/capture/capture';
import { redactHeaders } from '../../../src/core/capture/redact';
import { coversHost } from '../../../src/core/checks/https/certificate';
import { readHsts } from '../../../src/core/checks/https/hsts';
import { CHECKS } from '../../../src/core/checks';
import { auditPage, NO_SIZES } from '../../../src/core/plan/audit';
import { auditOf, capture, har, PAGE, type MadeLoad } from '../../fixtures/har';

const HTML = '<!doctype html><html><head><title>x</title></head><body><p>x</p></body></html>';
const found = (check: string, headers: Record<string, string>, loads: readonly MadeLoad[] = []) =>
  auditOf(HTML, loads, undefined, PAGE, { headers: { etag: '"1"', ...headers } }).findings.filter(
    (f) => f.check === check,
  );

describe('checks of hosts', () => {
  describe('hsts (RFC 6797)', () => {
    it('reads the header as section 6.1 says', () => {
      expect(readHsts('max-age=31536000')).to.deep.equal({ maxAgeS: 31_536_000, subdomains: false });
      expect(readHsts('max-age="100" ; includeSubDomains')).to.deep.equal({ maxAgeS: 100, subdomains: true });
      expect(readHsts('includeSubDomains; MAX-AGE=5')).to.deep.equal({ maxAgeS: 5, subdomains: true });
      expect(readHsts('includeSubDomains')).to.equal(undefined);
      expect(readHsts(undefined)).to.equal(undefined);
    });
    it('tells absent, switched off, short and incomplete apart', () => {
      expect(found('hsts', {})[0]?.harm).to.equal('exposed');
      expect(found('hsts', { 'strict-transport-security': 'max-age=0' })[0]?.harm).to.equal('exposed');
      expect(found('hsts', { 'strict-transport-security': 'max-age=86400' })[0]?.title).to.match(/for only 1 day/);
      expect(found('hsts', { 'strict-transport-security': 'max-age=31536000' })[0]?.harm).to.equal('tidy');
      expect(found('hsts', { 'strict-transport-security': 'max-age=31536000; includeSubDomains' })).to.deep.equal([]);
    });
    it('is one cause for all pages of a host', () => {
      const cause = (path: string) =>
        auditOf(HTML, [], undefined, PAGE + path, { headers: { etag: '"1"' } }).findings.find((f) => f.check === 'hsts')
          ?.cause;
      expect(cause('a/')).to.equal(cause('b/'));
    });
  });

  describe('certificate', () => {
    const shown = (values: Partial<HostCertificate>) => {
      const value = har([{ url: PAGE, body: HTML }], {}) as {
        log: { pages: { _lens: { observations: { certificates: HostCertificate[] } } }[] };
      };
      value.log.pages[0]!._lens.observations.certificates = [
        {
          host: 'www.fernhollow.example',
          subject: 'fernhollow.example',
          issuer: 'Test',
          names: ['fernhollow.example', 'www.fernhollow.example'],
          validFrom: '2026-09-01T00:00:00.000Z',
          validTo: '2027-03-01T00:00:00.000Z',
          protocol: 'TLS 1.3',
          ...values,
        },
      ];
      return auditPage(capture(value).page).findings.filter((f) => f.check === 'certificate');
    };
    it('accepts one that lasts, covers both names and comes over TLS 1.3', () => expect(shown({})).to.deep.equal([]));
    it('finds one that has expired or soon will', () => {
      expect(shown({ validTo: '2026-11-01T00:00:00.000Z' })[0]).to.include({ harm: 'broken' });
      expect(shown({ validTo: '2026-11-22T12:00:00.000Z' })[0]?.title).to.match(/expires in 10 days/);
    });
    it('finds a missing twin and an old protocol', () => {
      expect(shown({ names: ['www.fernhollow.example'] })[0]?.title).to.match(/does not cover fernhollow\.example/);
      expect(shown({ protocol: 'TLS 1.1' })[0]?.harm).to.equal('exposed');
    });
    it('covers by RFC 9525: a star stands for one label', () => {
      expect(coversHost({ names: ['*.fernhollow.example'] }, 'www.fernhollow.example')).to.equal(true);
      expect(coversHost({ names: ['*.fernhollow.example'] }, 'fernhollow.example')).to.equal(false);
      expect(coversHost({ names: ['*.fernhollow.example'] }, 'a.b.fernhollow.example')).to.equal(false);
    });
  });

  describe('cookie-insecure', () => {
    const SECRET = 'abc123secret';
    it('finds cookies without Secure, by name, and never sees their values', () => {
      const [f] = found('cookie-insecure', { 'set-cookie': `basket=${SECRET}; Path=/; HttpOnly` });
      expect(f?.title).to.match(/The cookie basket of/);
      expect(JSON.stringify(f)).not.to.include(SECRET);
      expect(found('cookie-insecure', { 'set-cookie': `basket=${SECRET}; Path=/; Secure` })).to.deep.equal([]);
    });
    it('tells what browsers refuse', () => {
      const [f] = found('cookie-insecure', { 'set-cookie': 'seen=1; SameSite=None' });
      expect(f?.harm).to.equal('broken');
    });
    it('keeps name and attributes of a cookie, and cuts everything else', () => {
      const cut = (value: string) => redactHeaders([{ name: 'Set-Cookie', value }])[0]?.value;
      expect(cut('a=b; Path=/; Secure; SameSite=Lax')).to.equal('a=cut; Path=/; Secure; SameSite=Lax');
      expect(cut('a=b; x-token=zzz')).to.equal('a=cut');
      expect(cut('just-a-secret')).to.equal('cut');
      expect(cut('a=b; Secure\nc=d')).to.equal('a=cut; Secure\nc=cut');
    });
  });

  describe('address-form', () => {
    it('finds a page that names itself with or without www otherwise than it is served', () => {
      const list = (head: string) =>
        auditOf(`<!doctype html><html><head>${head}</head><body></body></html>`).findings.filter(
          (f) => f.check === 'address-form',
        );
      expect(list('<link rel=canonical href="https://fernhollow.example/">')).to.have.length(1);
      expect(list('<link rel=canonical href="https://www.fernhollow.example/">')).to.deep.equal([]);
      expect(list('<link rel=canonical href="https://other.example/">')).to.deep.equal([]);
    });
  });

  describe('load-count and font-late', () => {
    it('counts loads and hosts above the limits', () => {
      const loads = Array.from({ length: 20 }, (_, i) => ({ url: `https://h${i}.example/a.js`, body: 'a', start: i }));
      const [f] = found('load-count', {}, loads);
      expect(f?.title).to.equal('The page needs 21 hosts');
      expect(f?.evidence.numbers).to.include({ loads: 21, hosts: 21 });
      expect(found('load-count', {}, loads.slice(0, 5))).to.deep.equal([]);
    });
    it('finds a font that is named by a sheet of others', () => {
      const html = '<link rel=stylesheet href="https://type.example/t.css"><p>x';
      const css = '@font-face{font-family:G;src:url(g.woff2);font-display:swap}';
      const loads: MadeLoad[] = [
        { url: 'https://type.example/t.css', body: css, start: 5 },
        { url: 'https://type.example/g.woff2', bytes: 20_000, start: 40 },
      ];
      const [f] = auditOf(html, loads).findings.filter((x) => x.check === 'font-late');
      expect(f?.title).to.match(/g\.woff2 is discovered only through t\.css, which comes from type\.example/);
      const own = loads.map((l) => ({ ...l, url: l.url.replace('https://type.example/', PAGE) }));
      expect(
        auditOf(html.replace('https://type.example/', '/'), own).findings.filter((x) => x.check === 'font-late'),
      ).to.deep.equal([]);
    });
  });

  describe('what a sweep knows', () => {
    const html = '<!doctype html><html><body><a href="/gone/">Gone</a>\n<a href="/Beds">Beds</a></body></html>';
    const crawl = {
      links: [
        { url: `${PAGE}gone/`, status: 404, hops: 0, end: `${PAGE}gone/` },
        { url: `${PAGE}gone/`, status: 404, hops: 0, end: `${PAGE}gone/` },
        { url: `${PAGE}Beds`, status: 200, hops: 2, end: `${PAGE}beds/` },
      ],
      sitemapHttp: { sitemap: `${PAGE}sitemap.xml`, url: 'http://www.fernhollow.example/' },
    };
    it('finds dead links, detours and sitemaps by http, with the place', () => {
      const { findings } = auditPage(capture(har([{ url: PAGE, body: html }])).page, NO_SIZES, { crawl });
      const of = (check: string) => findings.filter((f) => f.check === check);
      expect(of('link-missing')).to.have.length(1);
      expect(of('link-missing')[0]).to.include({ harm: 'broken', target: `${PAGE}gone/` });
      expect(of('link-redirected')[0]?.title).to.match(/\/Beds goes through 2 redirects to \/beds\//);
      expect(of('link-redirected')[0]?.evidence.source).to.include({ line: 2 });
      expect(of('sitemap-http')[0]?.title).to.match(/sitemap\.xml uses an http:.. URL for this page/);
    });
    it('says nothing of a recording without a sweep', () => {
      const { findings } = auditPage(capture(har([{ url: PAGE, body: html }])).page);
      expect(findings.filter((f) => /^(link-|sitemap)/.test(f.check))).to.deep.equal([]);
    });
  });

  describe('limits of a site', () => {
    it('take the place of the defaults', () => {
      const { page } = capture(har([{ url: PAGE, body: HTML, wait: 500 }]));
      const waits = (limits?: Record<string, number>) =>
        auditPage(page, NO_SIZES, { limits }).findings.filter((f) => f.check === 'server-wait').length;
      expect([waits(), waits({ 'server-wait.waitMs': 300 })]).to.deep.equal([0, 1]);
    });
    it('have a reason and a sensible default each', () => {
      for (const c of CHECKS)
        for (const t of c.thresholds ?? []) {
          expect(t.why.length, `${c.id}.${t.id}`).to.be.above(15);
          expect(t.value).to.be.above(0);
        }
    });
    it('every check says its harms, its standard and what to change', () => {
      for (const c of CHECKS) {
        expect(c.harms.length, c.id).to.be.above(0);
        expect(c.change, c.id).to.match(/\.$/);
        expect(c.standard.length, c.id).to.be.above(5);
      }
    });
  });
});
