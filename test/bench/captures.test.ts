import { expect } from 'chai';
import { LINKS } from '../../bench/accuracy/site';
import { readCapture } from '../../bench/accuracy/store';
import { bodiesInMemory } from '../../src/core/capture/capture';
import { readHar } from '../../src/core/capture/har';
import { applyFixes } from '../../src/core/fixes/applyFixes';
import { repeatVisit } from '../../src/core/load/repeatVisit';
import type { Replay } from '../../src/core/load/replay';
import { simulate } from '../../src/core/load/simulate';
import { auditPage, NO_SIZES, type Audit } from '../../src/core/plan/audit';
import { forecast } from '../../src/core/plan/forecast';
import { readPage } from '../../src/core/source/page';
import { VISITORS } from '../../src/core/load/visitors';

/** Real recordings, so that laws of the simulation are held against pages that nobody made for them. */
const PAGES = ['gate', 'tickets', 'seasons', 'archive'];

function auditOf(name: string): Audit {
  const [read] = readHar(readCapture(name));
  if (!read) throw new Error(`no capture of ${name}`);
  return auditPage(readPage(read.capture, bodiesInMemory(read.bodies)), NO_SIZES);
}

const BUSY = LINKS[0] as (typeof LINKS)[number];

/** Laws that every simulation keeps, whatever the page. */
function lawful(r: Replay, what: string): void {
  const m = r.milestones;
  expect(m.ttfbMs, what).to.be.above(0);
  expect(m.fcpMs, what).to.be.at.least(m.ttfbMs);
  expect(m.lcpMs, what).to.be.at.least(m.fcpMs);
  expect(m.loadMs, what).to.be.at.least(m.dclMs);
  const parts = Object.values(r.split);
  expect(
    parts.reduce((a, b) => a + b, 0),
    what,
  ).to.be.closeTo(m.lcpMs, 0.001);
  expect(Math.min(...parts), what).to.be.at.least(0);
  for (const path of [r.path, r.fcpPath, r.loadPath]) {
    expect(path[0]?.why, what).to.equal('the visit starts here');
    for (const [i, step] of path.entries()) {
      expect(step.toMs, what).to.be.at.least(step.fromMs);
      // Each step follows from one that began before it was over.
      if (i > 0) expect(step.toMs, what).to.be.at.least(path[i - 1]?.fromMs ?? 0);
    }
  }
}

for (const name of PAGES) {
  describe(`forecasts for the recorded page ${name}`, () => {
    const audit = auditOf(name);
    const { graph, fixes } = audit;

    it('keep the laws of a load on every link, first visit and second', () => {
      for (const link of LINKS) {
        lawful(simulate(graph, link), `${name} ${link.id}`);
        lawful(simulate(repeatVisit(graph), link), `${name} ${link.id} again`);
      }
    });

    it('keep them with every fix that is offered, and with all together', () => {
      expect(fixes.length).to.be.above(0);
      for (const fix of fixes) lawful(simulate(applyFixes(graph, [fix]), BUSY), fix.title);
      for (const link of LINKS) lawful(simulate(applyFixes(graph, fixes), link), 'all');
    });

    it('do not depend on the order in which fixes are chosen', () => {
      const all = simulate(applyFixes(graph, fixes), BUSY).milestones;
      expect(simulate(applyFixes(graph, [...fixes].reverse()), BUSY).milestones).to.deep.equal(all);
    });

    it('come to the same for a graph that has been stored and read again', () => {
      const stored = JSON.parse(JSON.stringify(graph)) as typeof graph;
      for (const link of LINKS)
        expect(simulate(stored, link).milestones).to.deep.equal(simulate(graph, link).milestones);
    });

    it('take no more bytes with smaller files, and no more time to the first byte with a faster server', () => {
      const now = simulate(graph, BUSY).milestones;
      for (const fix of fixes) {
        const then = simulate(applyFixes(graph, [fix]), BUSY).milestones;
        if (['image-resize', 'text-compress', 'minify', 'style-remove-unused', 'font-convert'].includes(fix.kind))
          expect(then.bytes, fix.title).to.be.below(now.bytes);
        if (fix.kind === 'server-faster') expect(then.ttfbMs).to.be.below(now.ttfbMs);
        if (fix.kind === 'offscreen-lazy') expect(then.bytes, fix.title).to.be.at.most(now.bytes);
      }
    });

    it('state ranges that hold the estimate', () => {
      const visitor = VISITORS[0] as (typeof VISITORS)[number];
      for (const fix of fixes.slice(0, 4)) {
        const f = forecast(graph, [fix], visitor);
        for (const key of ['fcpMs', 'lcpMs', 'loadMs'] as const) {
          const [low, high] = f.range[key];
          expect(f.change[key], fix.title).to.be.within(low, high);
          // The hero is never painted before the first paint.
          if (key !== 'lcpMs' || f.after.lcpMs > f.after.fcpMs)
            expect(f.after[key] - f.before[key]).to.be.closeTo(f.change[key], 1e-6);
        }
      }
    });
  });
}
