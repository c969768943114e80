import { expect } from 'chai';
import sharp from 'sharp';
import { InputError } from '../../src/core/capture/errors';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import { retimedHar } from '../../src/core/handover/retimedHar';
import { checksMarkdown } from '../../src/core/handover/checksMarkdown';
import { applyFixes } from '../../src/core/fixes/applyFixes';
import { simulate } from '../../src/core/load/simulate';
import { VISITORS } from '../../src/core/load/visitors';
import { STOPS_PAYING_MS } from '../../src/core/plan/thresholds';
import { VERSION } from '../../src/core/version';
import { readPage } from '../../src/core/source/page';
import { measureSizes } from '../../src/engine/imaging/measure';
import { auditReport } from '../../src/engine/services/auditReport';
import { answerForecast, parseFixRequest, resolveFixes } from '../../src/engine/services/forecastCapture';
import { auditHar } from '../../src/engine/services/importHar';
import { keptForecast } from '../../src/engine/services/sweepForecasts';
import { openStore, projectRoot } from '../../src/engine/store/store';
import { faultyPage } from '../fixtures/faultyPage';
import { bytesOf, har, PAGE, picture } from '../fixtures/har';
import { putDemo } from '../fixtures/server';
import { tempFolder } from '../fixtures/temp';
import fs from 'node:fs';
import path from 'node:path';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const audit = faultyPage();

describe('engine/services/forecastCapture', () => {
  const resolve = (text: string) => resolveFixes([parseFixRequest(text)], audit.fixes, audit, audit.graph);

  it('reads KIND TARGET key=value', () => {
    expect(parseFixRequest('image-resize https://a.example/x.jpg bytes=48000')).to.deep.equal({
      kind: 'image-resize',
      target: 'https://a.example/x.jpg',
      values: { bytes: 48000 },
    });
    for (const bad of ['magic *', 'image-resize', 'image-resize * bytes=many', 'image-resize * =3'])
      expect(() => parseFixRequest(bad), bad).to.throw(InputError);
  });

  it('takes offered fixes for * and lets keys win over what was measured', () => {
    const [fix] = resolve('image-resize * bytes=1234');
    expect(fix?.values.bytes).to.equal(1234);
    expect(fix?.target).to.match(/hero\.jpg$/);
  });

  it('takes a target that no check complained about, if the page has it', () => {
    const [fix] = resolve(`image-resize ${PAGE}new.jpg bytes=100`);
    expect(fix).to.include({ target: PAGE + 'new.jpg', kind: 'image-resize' });
    expect(() => resolve('image-resize https://nowhere.example/x.jpg')).to.throw(InputError, /No load of this page/);
  });

  it('gives one combined forecast, and each alone when asked', () => {
    const fixes = [...resolve('image-resize *'), ...resolve('script-defer *')];
    const answer = answerForecast(audit.graph, fixes, phone, true);
    expect(answer.each?.map((e) => e.fix.kind)).to.deep.equal(['image-resize', 'script-defer']);
    expect(answer.after.bytes).to.be.below(answer.before.bytes);
    expect(answerForecast(audit.graph, fixes, phone, false).each).to.equal(undefined);
  });
});

describe('engine/services/auditReport', () => {
  it('has forecasts for visitors of the device recorded, and edits before and after', () => {
    const report = auditReport([audit], VISITORS);
    const eager = report.fixes.find((f) => f.kind === 'hero-eager');
    expect(eager?.forecasts.map((f) => f.visitor)).to.deep.equal(['phone-busy', 'phone-wifi']);
    expect(eager?.edits.map((e) => e.before === e.after)).to.not.include(true);
    expect(report.findings.length).to.equal(audit.findings.length);
  });
  it('uses the first visitor given when none has the device', () => {
    expect(auditReport([audit], VISITORS.slice(2)).fixes[0]?.forecasts.map((f) => f.visitor)).to.deep.equal([
      'desktop',
    ]);
  });
  it('says what was not examined', async () => {
    const [plain] = await auditHar(bytesOf(har([{ url: PAGE }])), 'plain.har');
    const notes = plain ? auditReport([plain.audit], VISITORS).notExamined.map((n) => n.why) : [];
    expect(notes.join(' ')).to.match(/page source is not in the file/);
    expect(notes.join(' ')).to.match(/No observations/);
  });
});

describe('engine/imaging', () => {
  it('really compresses text and really re-encodes pictures at drawn size', async () => {
    const noise = {
      create: {
        width: 1600,
        height: 1000,
        channels: 3 as const,
        background: '#587',
        noise: { type: 'gaussian' as const, mean: 128, sigma: 30 },
      },
    };
    const jpeg = await sharp(noise).jpeg({ quality: 90 }).toBuffer();
    const png = await sharp(noise).resize(800, 500).png().toBuffer();
    const css = 'p{color:red}\n'.repeat(3000);
    const [read] = readHar(
      bytesOf(
        har(
          [
            { url: PAGE, body: '<img src=/a.jpg><img src=/b.png><img src=/broken.jpg>' },
            { url: PAGE + 's.css', body: css },
            { url: PAGE + 'a.jpg', body: jpeg },
            { url: PAGE + 'b.png', body: png },
            { url: PAGE + 'broken.jpg', body: Buffer.alloc(40_000, 7) },
          ],
          {
            pictures: [
              picture(PAGE + 'a.jpg', {
                naturalWidth: 1600,
                naturalHeight: 1000,
                box: { x: 0, y: 0, width: 200, height: 125 },
              }),
              picture(PAGE + 'b.png', {
                naturalWidth: 800,
                naturalHeight: 500,
                box: { x: 0, y: 0, width: 100, height: 62 },
              }),
              picture(PAGE + 'broken.jpg', {
                naturalWidth: 1600,
                naturalHeight: 1000,
                box: { x: 0, y: 0, width: 100, height: 62 },
              }),
            ],
          },
        ),
      ),
    );
    if (!read) throw new Error();
    const bodies = bodiesInMemory(read.bodies);
    const sizes = await measureSizes(readPage(read.capture, bodies), bodies);
    expect(sizes.compressed.get(1)).to.be.within(50, 2000);
    expect(sizes.resized.get(2)).to.be.within(1000, jpeg.length / 4);
    expect(sizes.resized.get(3)).to.be.within(500, png.length / 2);
    expect(sizes.resized.has(4)).to.equal(false);
  });
});

describe('the demo', () => {
  it('has stairs that only go down, for every visitor', async () => {
    const temp = tempFolder('stairs');
    await putDemo(temp.folder);
    const store = await openStore(temp.folder);
    for (const visitor of VISITORS.slice(0, 3)) {
      const forecast = await keptForecast(store, 2, visitor);
      const { stairs, paying } = forecast?.staircase ?? { stairs: [], paying: 0 };
      expect(stairs.length).to.be.above(2);
      for (const s of stairs) expect(s.wonMs, `${s.group.title} for ${visitor.id}`).to.be.at.least(0);
      for (const s of stairs.slice(paying)) expect(s.wonMs).to.be.below(STOPS_PAYING_MS);
    }
    await store.destroy();
    temp.remove();
  });
});

describe('handover of forecasts and docs', () => {
  it('writes a HAR that our own reader takes, with the times of the forecast', () => {
    const g = applyFixes(audit.graph, audit.fixes);
    const replay = simulate(g, phone);
    const [read] = readHar(bytesOf(retimedHar(audit.page.capture, g, replay, '1')));
    expect(read?.capture.measured.lcpMs).to.equal(replay.milestones.lcpMs);
    expect(read?.capture.measured.loadMs).to.equal(replay.milestones.loadMs);
    const hero = read?.capture.loads.find((l) => l.url.endsWith('hero.jpg'));
    expect(hero?.endMs).to.be.closeTo(replay.fetches[g.hero.fetch]?.endMs ?? 0, 2);
    expect(read?.capture.notes.join()).to.match(/forecast, not a recording/);
  });

  it('states the version of package.json', () => {
    const { version } = JSON.parse(fs.readFileSync(path.join(projectRoot(), 'package.json'), 'utf8')) as {
      version: string;
    };
    expect(VERSION).to.equal(version);
  });

  it('keeps docs/checks.md as the code has it (npm run docs)', () => {
    expect(fs.readFileSync(path.join(projectRoot(), 'docs/checks.md'), 'utf8')).to.equal(checksMarkdown());
  });
});
