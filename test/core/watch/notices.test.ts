import { expect } from 'chai';
import type { SweepCause } from '../../../src/core/site/news';
import { atomFeed } from '../../../src/core/watch/atom';
import { changeText, findingsNotice, messageOf, monthBefore, wellNotice } from '../../../src/core/watch/notices';

const cause = (harm: SweepCause['harm'], title: string): SweepCause => ({
  cause: title,
  check: 'c',
  concern: 'mixed',
  harm,
  title,
  pages: ['https://www.fernhollow.example/'],
});
const nothing = { appeared: [], cameBack: [], gone: [], stayed: 0, notLookedAt: [], pagesAdded: [], pagesDropped: [] };

describe('core/watch/notices', () => {
  it('names new findings and those that came back by harm, and leaves out what nobody notices', () => {
    expect(findingsNotice(nothing, 1, 7)).to.equal(undefined);
    expect(findingsNotice({ ...nothing, appeared: [cause('tidy', 't')] }, 1, 7)).to.equal(undefined);
    const notice = findingsNotice(
      { ...nothing, appeared: [cause('broken', 'A blocked script')], cameBack: [cause('slow', 'A late hero')] },
      1,
      7,
    );
    expect(notice).to.deep.include({
      key: 'findings 7',
      title: 'Findings: 1 new, 1 came back (1 broken, 1 slow)',
      lines: ['new: A blocked script (1 page)', 'came back: A late hero (1 page)'],
    });
  });

  it('says how a page changed', () => {
    const change = (words: [kind: 'same' | 'removed' | 'added', text: string][]) =>
      changeText({ part: 'title', where: '', words: words.map(([kind, text]) => ({ kind, text })) });
    expect(
      change([
        ['same', 'Plant sale'],
        ['added', ' 2027'],
      ]),
    ).to.equal('title: "Plant sale" is now "Plant sale 2027"');
    expect(change([['added', 'Talks']])).to.equal('title: "Talks" is new');
    expect(change([['removed', 'Talks']])).to.equal('title: "Talks" is gone');
  });

  it('puts all notices of a run into one message whose subject is one line', () => {
    const notices = [wellNotice('2026-11', 1, 3), wellNotice('2026-12', 2, 3)];
    const one = messageOf('Fern\r\nBcc: x', notices.slice(0, 1), 'https://lens.example');
    expect(one.subject).to.equal('Fern Bcc: x: All is well: November 2026');
    expect(one.text).to.contain('  One run of the watch').and.to.contain('https://lens.example/sites/3/watch');
    expect(messageOf('Fern', notices, undefined).subject).to.equal('Fern: 2 notices (All is well: November 2026, …)');
    expect(messageOf('Fern', notices, undefined).text).not.to.contain('/sites/3');
  });

  it('knows the month before', () => {
    expect(monthBefore('2026-12-03')).to.equal('2026-11');
    expect(monthBefore('2027-01-31')).to.equal('2026-12');
  });

  it('makes an Atom feed in which no title ends a tag', () => {
    const feed = atomFeed(
      { name: 'Fern & Moss', createdAt: '2026-11-01T00:00:00Z' },
      [{ ...wellNotice('2026-11', 1, 3), id: 4, at: '2026-12-01T00:00:00Z', title: '</title><x> \u0000' }],
      'http://127.0.0.1:4270/api/sites/3/notices.atom',
    );
    expect(feed).to.contain('<title>&lt;/title&gt;&lt;x&gt; </title>');
    expect(feed).to.contain('<id>http://127.0.0.1:4270/api/sites/3/notices.atom#4</id>');
    expect(feed).to.contain('<updated>2026-12-01T00:00:00Z</updated>');
    expect(feed).to.contain('<link href="http://127.0.0.1:4270/sites/3/watch"/>');
  });
});
