import { expect } from 'chai';
import { createHash, createHmac } from 'node:crypto';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { SMTPServer } from 'smtp-server';
import type { WatchLimit } from '../../../src/core/watch/limits';
import type { Schedule } from '../../../src/core/watch/schedule';
import { runWatch } from '../../../src/engine/jobs/runWatch';
import { importHar } from '../../../src/engine/services/importHar';
import { saveAppSetting, type MailServer } from '../../../src/engine/store/appSettings';
import { listJobs } from '../../../src/engine/store/jobs';
import { addSite, saveSiteSettings, type SiteRow } from '../../../src/engine/store/sites';
import { openStore, type Store } from '../../../src/engine/store/store';
import { listSweeps } from '../../../src/engine/store/sweeps';
import { listDeliveries } from '../../../src/engine/store/watch/deliveries';
import { addWatchLimit, limitResults } from '../../../src/engine/store/watch/limits';
import { listNotices, saveNotifySettings } from '../../../src/engine/store/watch/notices';
import { addSchedule, changeSchedule, listSchedules } from '../../../src/engine/store/watch/schedules';
import { listVisits, listWatched, setMutings, watchPages } from '../../../src/engine/store/watch/watchedPages';
import { deliverWaiting, RETRY_MINUTES } from '../../../src/engine/watch/deliver';
import { crawledPages } from '../../../src/engine/store/crawledPages';
import { judgeSweep } from '../../../src/engine/watch/judgeSweep';
import { lookAtWatch, startDue } from '../../../src/engine/watch/scheduler';
import { tell } from '../../../src/engine/watch/afterRun';
import { har, PAGE } from '../../fixtures/har';
import { linking, madeSite, type MadeSite } from '../../fixtures/site';
import { fastSettings } from '../../fixtures/sweep';
import { tempFolder } from '../../fixtures/temp';

const daily: Schedule = { what: 'sweep', cron: '0 3 * * *', zone: 'UTC', on: true };
const at = (text: string) => new Date(text);
const START = at('2027-03-01T00:00:00Z');

interface Received {
  readonly headers: http.IncomingHttpHeaders;
  readonly body: string;
}

describe('engine/watch', () => {
  const temp = tempFolder('watch');
  let store: Store;
  let site: MadeSite;
  let row: SiteRow;
  let n = 0;
  let pageText = 'Open from ten to four.';
  let visits = 0;
  before(async () => {
    site = await madeSite((at_) => {
      if (at_ === '/robots.txt') return undefined;
      if (at_ === '/hours/')
        return `<!doctype html><title>Hours</title><p class="clock">${++visits}</p><p class="hours">${pageText}</p>`;
      return linking('/hours/');
    });
  });
  beforeEach(async () => {
    pageText = 'Open from ten to four.';
    store = await openStore(path.join(temp.folder, String(++n)));
    row = await addSite(store, 'Made', site.home);
    await saveSiteSettings(
      store,
      row.id,
      fastSettings(site.home, {
        sitemaps: false,
        entrances: { withSweep: false, hosts: [], perTemplate: 0, outsideLinks: false },
      }),
    );
  });
  afterEach(() => store.destroy());
  after(async () => {
    await site.close();
    temp.remove();
  });

  /** A mail server on loopback that keeps what it is sent. */
  async function mailServer(user?: string) {
    const mails: string[] = [];
    const server = new SMTPServer({
      authOptional: user === undefined,
      disabledCommands: ['STARTTLS'],
      allowInsecureAuth: true,
      onAuth: (auth, _, done) =>
        auth.username === user && auth.password === 'moss' ? done(null, { user }) : done(new Error('no')),
      onData: (stream, _, done) => {
        let text = '';
        stream.on('data', (chunk: Buffer) => (text += chunk.toString()));
        stream.on('end', () => {
          mails.push(text);
          done();
        });
      },
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const { port } = server.server.address() as AddressInfo;
    const settings: MailServer = {
      host: '127.0.0.1',
      port,
      security: 'none',
      user: user ?? '',
      password: user ? 'moss' : '',
      from: 'lens@fernhollow.example',
    };
    return { mails, settings, close: () => new Promise<void>((done) => server.close(() => done())) };
  }

  async function webhook(statuses: number[]) {
    const received: Received[] = [];
    const server = http.createServer((request, response) => {
      let body = '';
      request.on('data', (c: Buffer) => (body += c.toString()));
      request.on('end', () => {
        received.push({ headers: request.headers, body });
        response.writeHead(statuses.shift() ?? 204).end();
      });
    });
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}/lens?room=1`;
    return { received, url, close: () => new Promise<void>((done) => server.close(() => done())) };
  }

  const limit = (more: Partial<WatchLimit> = {}): WatchLimit => ({
    figure: 'findings',
    visitor: 'phone-busy',
    scope: { kind: 'all' },
    bound: 0,
    tolerance: 0,
    ...more,
  });
  const notice = (key: string) => ({ kind: 'limit' as const, key, title: key, lines: ['x'], path: '/sites/1/watch' });
  const imported = async (day: string) => {
    const body =
      '<!doctype html><title>Sale</title><img src="http://media.fernhollow.example/a.jpg" width="4" height="4">';
    const text = JSON.stringify(har([{ url: PAGE, body }])).replaceAll(/20\d\d-\d\d-\d\dT/g, `${day}T`);
    await importHar(store, new TextEncoder().encode(text), 'visit.har');
  };

  it('starts a schedule when its time has come, catches up once, and runs it to its end', async () => {
    await addSchedule(store, row.id, daily, START);
    expect(await startDue(store, at('2027-03-01T02:59:00Z'))).to.deep.equal([]);
    const jobs = await runWatch(store, at('2027-03-05T12:00:00Z'), () => undefined);
    expect(jobs.map((j) => [j.kind, j.state])).to.deep.equal([['sweep', 'done']]);
    expect(await startDue(store, at('2027-03-05T12:01:00Z'))).to.deep.equal([]);
    expect((await startDue(store, at('2027-03-06T03:00:00Z'))).length).to.equal(1);
    const [schedule] = await listSchedules(store, row.id);
    expect(schedule).to.include({ lastStart: '2027-03-06T03:00:00.000Z', lastJob: 2 });
    expect((await listSweeps(store, row.id)).length).to.equal(1);
  });

  it('lets one of two processes start it', async () => {
    await addSchedule(store, row.id, daily, START);
    const other = await openStore(path.join(temp.folder, String(n)));
    const now = at('2027-03-02T03:00:00Z');
    const both = await Promise.all([startDue(store, now), startDue(other, now)]);
    expect(both.flat().length).to.equal(1);
    expect((await listJobs(store)).length).to.equal(1);
    await other.destroy();
  });

  it('says why it could not start, and counts what was missed before a change no longer', async () => {
    const id = await addSchedule(store, row.id, { ...daily, what: 'changes' }, START);
    expect(await startDue(store, at('2027-03-02T03:00:00Z'))).to.deep.equal([]);
    expect((await listSchedules(store, row.id))[0]?.lastError?.what).to.contain('No page of this site is watched');
    await changeSchedule(store, row.id, id, daily, at('2027-03-10T12:00:00Z'));
    expect(await startDue(store, at('2027-03-10T12:01:00Z'))).to.deep.equal([]);
    expect((await startDue(store, at('2027-03-11T03:00:00Z'))).length).to.equal(1);
  });

  it('tells of a job that failed, once', async () => {
    await saveSiteSettings(store, row.id, fastSettings('http://127.0.0.1:9/', { sitemaps: false }));
    await addSchedule(store, row.id, daily, START);
    const [job] = await runWatch(store, at('2027-03-02T03:00:00Z'), () => undefined);
    expect(job?.state).to.equal('failed');
    await lookAtWatch(store, at('2027-03-02T03:10:00Z'));
    const notices = await listNotices(store, row.id);
    expect(notices.map((x) => x.kind)).to.deep.equal(['failure']);
    expect(notices[0]?.lines.join(' ')).to.contain('No page could be fetched');
  });

  it('judges facts of the pages that a sweep visited', async () => {
    await addSchedule(store, row.id, daily, START);
    await runWatch(store, at('2027-03-02T03:00:00Z'), () => undefined);
    const [sweep] = await listSweeps(store, row.id);
    const pages = await crawledPages(store, sweep?.id ?? 0);
    expect(pages?.length).to.be.above(0);
    expect(pages?.every((p) => p.brokenPages === 0 && (p.answerMs ?? -1) >= 0)).to.equal(true);
    const id = await addWatchLimit(store, row.id, limit({ figure: 'missingLinks', bound: 1000 }));
    expect(await judgeSweep(store, row.id, sweep?.id ?? 0, 'pages', START)).to.deep.equal([]);
    const result = (await limitResults(store, row.id)).find((r) => r.limitId === id);
    expect(result).to.include({ over: false, broken: false });
    expect(result?.value).to.equal(pages?.reduce((sum, p) => sum + p.missingLinks, 0));
  });

  it('says that a limit broke once, and that it holds again', async () => {
    const fern = await importedSite();
    const id = await addWatchLimit(store, fern, limit());
    const [second, first] = (await listSweeps(store, fern)).map((s) => s.id) as [number, number];
    const broke = await judgeSweep(store, fern, first, 'pages', START);
    expect(broke.map((x) => x.title)).to.deep.equal(['Limit broken: Findings of the site: at most 0']);
    await tell(store, fern, broke, START);
    await tell(store, fern, await judgeSweep(store, fern, second, 'pages', START), START);
    expect((await listNotices(store, fern)).length, 'it stays broken').to.equal(1);
    const results = await limitResults(store, fern);
    expect(results.map((r) => [r.sweepId, r.broken, r.brokenSince])).to.deep.equal([
      [second, true, first],
      [first, true, first],
    ]);
    await store
      .updateTable('watch_limits')
      .set({ content: JSON.stringify(limit({ bound: 999 })) })
      .where('id', '=', id)
      .execute();
    const held = await judgeSweep(store, fern, second, 'pages', START);
    expect(held.map((x) => x.title)).to.deep.equal(['Limit holds again: Findings of the site: at most 999']);
  });

  async function importedSite(): Promise<number> {
    await imported('2027-01-10');
    await imported('2027-02-10');
    const found = (await store.selectFrom('sites').select(['id', 'name']).execute()).find((s) => s.id !== row.id);
    return found?.id ?? 0;
  }

  it('does not judge times again when only entrances were asked for', async () => {
    const fern = await importedSite();
    await addWatchLimit(store, fern, limit({ figure: 'lcpMs', bound: 1 }));
    const [sweep] = await listSweeps(store, fern);
    expect(await judgeSweep(store, fern, sweep?.id ?? 0, 'probe', START)).to.deep.equal([]);
    expect(await limitResults(store, fern)).to.deep.equal([]);
    expect((await judgeSweep(store, fern, sweep?.id ?? 0, 'pages', START)).length).to.equal(1);
  });

  it('sends one mail and one signed request for all notices of a run', async () => {
    const mail = await mailServer('fern');
    const hook = await webhook([]);
    await saveAppSetting(store, 'mail', mail.settings);
    await saveAppSetting(store, 'origin', 'https://lens.fernhollow.example');
    await saveNotifySettings(store, row.id, {
      mailTo: ['owner@fernhollow.example', 'fixer@fernhollow.example'],
      webhook: { url: hook.url, secret: 'moss' },
      monthly: false,
    });
    await tell(store, row.id, [notice('one'), notice('two')], START);
    await tell(store, row.id, [notice('two')], START);
    await deliverWaiting(store, START);
    expect(mail.mails.length).to.equal(1);
    expect(mail.mails[0])
      .to.contain('Subject: =?UTF-8?')
      .and.to.contain('https://lens.fernhollow.example/sites/1/watch');
    expect(mail.mails[0]).to.contain('Auto-Submitted: auto-generated');
    expect(hook.received.length).to.equal(1);
    const [got] = hook.received;
    const sent = JSON.parse(got?.body ?? '') as { notices: { title: string }[]; site: { name: string } };
    expect(sent.notices.map((x) => x.title)).to.deep.equal(['one', 'two']);
    // RFC 9421, 2.5 and 3.3.3: worked out here from what arrived.
    const digest = `sha-256=:${createHash('sha256')
      .update(got?.body ?? '')
      .digest('base64')}:`;
    expect(got?.headers['content-digest']).to.equal(digest);
    const params = String(got?.headers['signature-input']).replace(/^watch=/, '');
    const base = `"@method": POST\n"@target-uri": ${hook.url}\n"content-digest": ${digest}\n"content-type": application/json\n"@signature-params": ${params}`;
    const expected = createHmac('sha256', 'moss').update(base).digest('base64');
    expect(got?.headers.signature).to.equal(`watch=:${expected}:`);
    expect((await listDeliveries(store, row.id)).map((d) => d.state)).to.deep.equal(['sent', 'sent']);
    await mail.close();
    await hook.close();
  });

  it('tries again after longer waits, then gives up and says why', async () => {
    const hook = await webhook([500, 503]);
    await saveNotifySettings(store, row.id, {
      mailTo: ['a@b.example'],
      webhook: { url: hook.url, secret: 's' },
      monthly: false,
    });
    await tell(store, row.id, [notice('one')], START);
    const state = async (channel: string) =>
      (await listDeliveries(store, row.id))
        .filter((d) => d.channel === channel)
        .map((d) => [d.state, d.tries, d.error])[0];
    let now = START.getTime();
    await deliverWaiting(store, new Date(now));
    expect(await state('webhook')).to.deep.equal(['waiting', 1, 'The webhook responded with 500.']);
    expect(await state('mail')).to.deep.equal(['waiting', 1, 'No mail server is set.']);
    await deliverWaiting(store, new Date(now + 30_000));
    expect(hook.received.length).to.equal(1);
    for (const minutes of RETRY_MINUTES) await deliverWaiting(store, new Date((now += minutes * 60_000)));
    expect(await state('webhook')).to.deep.equal(['sent', 3, null]);
    expect(await state('mail')).to.deep.equal(['failed', 6, 'No mail server is set.']);
    expect(hook.received.map((r) => (JSON.parse(r.body) as { id: number }).id)).to.deep.equal([2, 2, 2]);
    await hook.close();
  });

  it('says what a mail server has against a message', async () => {
    const mail = await mailServer('fern');
    await saveAppSetting(store, 'mail', { ...mail.settings, password: 'wrong' });
    await saveNotifySettings(store, row.id, { mailTo: ['a@b.example'], monthly: false });
    await tell(store, row.id, [notice('one')], START);
    await deliverWaiting(store, START);
    expect((await listDeliveries(store, row.id))[0]?.error).to.contain('did not accept name and password');
    await mail.close();
  });

  it('says once a month that all is well, if it was', async () => {
    await saveNotifySettings(store, row.id, { mailTo: [], monthly: true });
    await addSchedule(store, row.id, daily, START);
    await runWatch(store, at('2027-03-02T03:00:00Z'), () => undefined);
    const next = new Date();
    next.setUTCMonth(next.getUTCMonth() + 1, 2);
    await lookAtWatch(store, next);
    await lookAtWatch(store, next);
    const [well, ...more] = await listNotices(store, row.id);
    expect(more).to.deep.equal([]);
    expect(well?.title).to.match(/^All is well: /);
  });

  it('sees what changed on a page, learns what always does, and leaves aside what is muted', async () => {
    await watchPages(store, row.id, [`${site.home}hours/`]);
    await addSchedule(store, row.id, { ...daily, what: 'changes' }, START);
    const run = (day: number) =>
      runWatch(store, at(`2027-03-${String(day).padStart(2, '0')}T03:00:00Z`), () => undefined);
    await run(2);
    expect((await listVisits(store, row.id)).map((v) => v.changes)).to.deep.equal([null]);
    const [page] = await listWatched(store, row.id);
    expect(page?.learned).to.deep.equal([{ part: 'text', where: 'p.clock' }]);
    await run(3);
    expect((await listVisits(store, row.id))[0]?.changes).to.deep.equal([]);
    pageText = 'Open from nine to four.';
    await run(4);
    expect((await listVisits(store, row.id))[0]?.changes).to.deep.equal([
      {
        part: 'text',
        where: 'p.hours',
        words: [
          { kind: 'same', text: 'Open from ' },
          { kind: 'removed', text: 'ten' },
          { kind: 'added', text: 'nine' },
          { kind: 'same', text: ' to four.' },
        ],
      },
    ]);
    expect((await listNotices(store, row.id)).map((x) => x.title)).to.deep.equal([`Changed: ${site.home}hours/`]);
    await setMutings(store, row.id, page?.id ?? 0, [{ part: 'text', where: 'p.hours' }]);
    pageText = 'Closed.';
    await run(5);
    expect((await listVisits(store, row.id))[0]?.changes).to.deep.equal([]);
  });

  it('keeps why a page could not be visited, and compares with the visit before that', async () => {
    await watchPages(store, row.id, ['http://127.0.0.1:9/hours/']);
    await addSchedule(store, row.id, { ...daily, what: 'changes' }, START);
    await runWatch(store, at('2027-03-02T03:00:00Z'), () => undefined);
    const [visit] = await listVisits(store, row.id);
    expect(visit?.changes).to.equal(null);
    expect(visit?.error).to.contain('refused');
  });
});
