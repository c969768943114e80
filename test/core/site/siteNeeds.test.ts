import { expect } from 'chai';
import { needOf, siteNeeds, type SiteFacts } from '../../../src/core/site/siteNeeds';

const NOW = Date.parse('2026-11-29T12:00:00Z');
const DAY = 86_400_000;
const quiet: SiteFacts = { brokenLimits: 0, brokenPromises: 0, unread: 0, notRecorded: false };
const texts = (more: Partial<SiteFacts>) => siteNeeds({ ...quiet, ...more }, NOW).map((n) => n.text);

describe('core/site/siteNeeds', () => {
  it('has nothing to say of a site that is well', () => {
    expect(texts({ heroMs: 2000, heroBeforeMs: 1950, certificateEndsMs: NOW + 60 * DAY })).to.deep.equal([]);
  });

  it('says when certificates end', () => {
    expect(texts({ certificateEndsMs: NOW + 5.5 * DAY })).to.deep.equal(['a certificate ends in 5 days']);
    expect(texts({ certificateEndsMs: NOW + DAY / 2 })).to.deep.equal(['a certificate ends today']);
    expect(texts({ certificateEndsMs: NOW - 3 * DAY })).to.deep.equal(['a certificate ended 3 days ago']);
    expect(texts({ certificateEndsMs: NOW + 22.5 * DAY })).to.deep.equal([]);
  });

  it('counts as worse what is more than noise', () => {
    expect(texts({ heroMs: 4000, heroBeforeMs: 2000 })).to.deep.equal(['hero paint 2.0 s later than before']);
    expect(texts({ heroMs: 6500, heroBeforeMs: 6000 })).to.deep.equal([]);
    expect(texts({ heroMs: 1000, heroBeforeMs: 2000 })).to.deep.equal([]);
  });

  it('puts the most pressing first, within a site and among sites', () => {
    const all = siteNeeds(
      { brokenLimits: 1, brokenPromises: 2, unread: 3, notRecorded: false, certificateEndsMs: NOW + 2 * DAY },
      NOW,
    );
    expect(all.map((n) => n.kind)).to.deep.equal(['certificate', 'limit', 'promise', 'notices']);
    const limit = siteNeeds({ ...quiet, brokenLimits: 1 }, NOW);
    expect(needOf(all)).to.be.above(needOf(limit));
    expect(needOf(limit)).to.be.above(needOf(siteNeeds({ ...quiet, unread: 900 }, NOW)));
    expect(needOf([])).to.equal(0);
  });
});
