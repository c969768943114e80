import { expect } from 'chai';
import path from 'node:path';
import { agrees, judge, type Verdict } from '../../../bench/truth/judge';
import { CHECKS } from '../../../src/core/checks';
import { SITUATIONS } from '../../fixtures/pages/serve';
import { listSituations, readRecordings } from '../../fixtures/pages/situations';

describe('core/checks against what Chromium did (test/fixtures/pages)', () => {
  const situations = listSituations();
  const verdicts = new Map<string, Verdict[]>();
  before(() => {
    for (const device of ['phone', 'desktop'] as const)
      for (const r of readRecordings(device)) {
        const situation = situations.find((s) => s.name === r.name);
        if (situation) verdicts.set(`${r.name} ${device}`, judge(r, situation));
      }
  });
  const all = (what: Verdict['what']) => [...verdicts.values()].flat().filter((v) => v.what === what);
  const wrong = (what: Verdict['what']) =>
    all(what)
      .filter((v) => !agrees(v))
      .map((v) => `${v.page} (${v.device}) ${v.about}: we say ${v.ours}, Chromium ${v.truth}`);

  it('has every situation as phone and desktop', () => {
    expect(situations.length).to.be.at.least(60);
    expect([...verdicts.keys()].sort()).to.deep.equal(
      situations.flatMap((s) => [`${s.name} desktop`, `${s.name} phone`]).sort(),
    );
  });

  it('tells what blocks rendering as Resource Timing does', () => {
    expect(all('blocking').length).to.be.above(500);
    expect(wrong('blocking')).to.deep.equal([]);
  });

  it('tells what mixed content is blocked, upgraded or allowed', () => {
    expect(all('mixed').length).to.be.above(30);
    expect(wrong('mixed')).to.deep.equal([]);
  });

  it('finds the hero: nine in ten from a plain HAR, every one with observations', () => {
    expect(wrong('hero').length).to.be.at.most(all('hero').length / 10);
    expect(wrong('hero seen')).to.deep.equal([]);
    expect(wrong('queue')).to.deep.equal([]);
  });

  it('finds what was planted and nothing else', () => expect(wrong('faults')).to.deep.equal([]));

  it('explains the three pages that were written only after the checks', () => {
    const folder = path.join(SITUATIONS, '../unseen');
    const unseen = listSituations(folder);
    expect(unseen).to.have.length(3);
    const all = (['phone', 'desktop'] as const).flatMap((device) =>
      readRecordings(device, folder).flatMap((r) =>
        judge(
          r,
          unseen.find((s) => s.name === r.name)!,
        ),
      ),
    );
    expect(all.length).to.be.above(60);
    expect(all.filter((v) => !agrees(v))).to.deep.equal([]);
  });

  it('plants a fault for most checks', () => {
    const planted = new Set(situations.flatMap((s) => [...s.faults.phone, ...s.faults.desktop]));
    const left = CHECKS.map((c) => c.id).filter((id) => !planted.has(id));
    // These have examples of their own in checks.test.ts, files.test.ts and hosts.test.ts.
    expect(left).to.have.members([
      'http-entrance',
      'hsts',
      'certificate',
      'cookie-insecure',
      'address-form',
      'link-missing',
      'link-redirected',
      'sitemap-http',
      'image-heavy',
      'picture-format',
      'inlined-data',
      'font-format',
      'font-subset',
      'text-unminified',
      'library-twice',
      'html-large',
      'cache-short',
      'load-count',
      'font-late',
      'inline-script-large',
      'server-wait',
      'content-by-script',
    ]);
  });
});
