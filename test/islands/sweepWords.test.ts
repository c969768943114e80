import { expect } from 'chai';
import { defaultSettings } from '../../src/core/site/settings';
import type { JobRow } from '../../src/engine/store/jobs';
import { actionsOf, isOpen } from '../../src/islands/state/jobs';
import { jobLine, jobShare, lasted, left, rate } from '../../src/islands/sweep/jobWords';
import { settingsFacts, settingsSentence } from '../../src/islands/sweep/settingsWords';

const job = (more: Partial<JobRow> = {}): JobRow => ({
  id: 1,
  kind: 'sweep',
  siteId: 1,
  sweepId: 1,
  title: 'Sweep',
  state: 'running',
  wanted: null,
  phase: 'fetching pages',
  createdAt: '2026-11-25T08:00:00Z',
  startedAt: '2026-11-25T08:00:01Z',
  endedAt: null,
  ...more,
});
const progress = {
  done: 500,
  total: 2000,
  failed: 3,
  perSecond: 12.4,
  secondsLeft: 121,
  now: [],
  recent: [],
  counts: {},
};

describe('islands/sweep words', () => {
  it('tells of a job in one line', () => {
    expect(jobLine(job({ progress }))).to.equal(
      'fetching pages · 500 of 2,000 · 12 a second · about 2 min left · 3 failed',
    );
    expect(jobLine(job({ state: 'queued', place: 2 }))).to.equal('queued behind 2 jobs');
    expect(jobLine(job({ state: 'failed', error: { what: 'It failed.', where: '', next: '' } }))).to.equal(
      'It failed.',
    );
    expect(jobShare(job({ progress }))).to.equal(0.25);
    expect(jobShare(job())).to.equal(undefined);
  });

  it('gives rates and times in units that fit', () => {
    expect([rate(180.2), rate(2.5), rate(0.1), rate(0), rate(undefined)]).to.deep.equal([
      '180 a second',
      '2.5 a second',
      '6 a minute',
      '',
      '',
    ]);
    expect([left(2), left(42), left(600), left(9000), left(Infinity), left(undefined)]).to.deep.equal([
      'a few seconds left',
      'about 40 s left',
      'about 10 min left',
      'about 2.5 h left',
      '',
      '',
    ]);
    expect(lasted('2026-11-25T08:00:00Z', '2026-11-25T08:03:20Z')).to.equal('3 min 20 s');
    expect(lasted('2026-11-25T08:00:00Z', '2026-11-25T10:05:00Z')).to.equal('2 h 5 min');
  });

  it('offers only what makes sense for a job', () => {
    expect(actionsOf(job())).to.deep.equal(['pause', 'cancel']);
    expect(actionsOf(job({ wanted: 'pause' }))).to.deep.equal([]);
    expect(actionsOf(job({ kind: 'import' }))).to.deep.equal(['cancel']);
    expect(actionsOf(job({ state: 'paused' }))).to.deep.equal(['resume', 'cancel']);
    expect(actionsOf(job({ state: 'done' }))).to.deep.equal([]);
    expect(actionsOf(job({ state: 'done', progress }))).to.deep.equal(['retry']);
    expect([isOpen(job()), isOpen(job({ state: 'cancelled' }))]).to.deep.equal([true, false]);
  });

  it('says what a sweep will do', () => {
    const settings = defaultSettings('https://www.fernhollow.example/');
    expect(settingsSentence(settings)).to.equal(
      'It follows links from the home page and reads the sitemaps on www.fernhollow.example, up to 1,000 pages, at most 5 requests a second. Then a browser records the home page and one page of each template, up to 6 pages, as phone and desktop, 3 times each.',
    );
    const none = { ...settings, sitemaps: false, perSecond: 0, captures: { ...settings.captures, maxPages: 0 } };
    expect(settingsSentence(none)).to.match(/as fast as the server responds, 4 at a time. Nothing is recorded/);
    const quick = { ...settings, captures: { ...settings.captures, runs: 1 } };
    expect(settingsSentence(quick)).to.match(/as phone and desktop, once each\.$/);
    const facts = new Map(settingsFacts({ ...settings, basicAuth: { username: 'gardener', password: 'x' } }));
    expect(facts.get('Signs in')).to.equal('as gardener');
    expect(facts.get('Pace')).to.match(/^Normal/);
  });
});
