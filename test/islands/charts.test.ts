import { expect } from 'chai';
import fc from 'fast-check';
import { placeDots } from '../../src/islands/charts/dotsLayout';
import { spreadBars } from '../../src/islands/charts/spreadLayout';
import { staircaseLayout, wrap } from '../../src/islands/charts/staircaseLayout';
import { storySide } from '../../src/islands/charts/story/storyLayout';
import { bytes, effectText, count, ms, range } from '../../src/islands/ui/format';
import { shortTitles } from '../../src/core/site/shortTitles';
import { simulate } from '../../src/core/load/simulate';
import { VISITORS } from '../../src/core/load/visitors';
import { buildStaircase } from '../../src/core/plan/staircase';
import { faultyPage } from '../fixtures/faultyPage';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const audit = faultyPage();

describe('islands/charts', () => {
  it('places stairs from left to right, each where the one before ends', () => {
    const data = buildStaircase([{ graph: audit.graph, fixes: audit.fixes }], phone);
    const { marks, y, stopsAt } = staircaseLayout(data, 800, 232);
    expect(marks).to.have.length(data.stairs.length + 1);
    marks.forEach((m, i) => {
      expect(m.y).to.equal(y(m.ms));
      expect(m.bandTop).to.be.at.most(m.y + 0.01);
      expect(m.bandBottom).to.be.at.least(m.y - 0.01);
      if (marks[i + 1]) expect(m.nextY).to.equal(marks[i + 1]?.y);
      expect(m.x + m.width).to.be.at.most(801);
    });
    if (data.paying < data.stairs.length) expect(stopsAt).to.equal(marks[data.paying + 1]?.x);
  });

  it('draws spreads in which one page beside thousands is still to be seen', () => {
    const bars = spreadBars(
      [
        { value: '200', label: '200', pages: 9000 },
        { value: '404', label: '404', pages: 1 },
        { value: '500', label: '500', pages: 0 },
      ],
      120,
      50,
    );
    expect(bars.map((b) => Math.round(b.height))).to.deep.equal([50, 2, 0]);
    for (const [i, b] of bars.entries()) {
      expect(b.y + b.height).to.be.closeTo(50, 1e-6);
      if (i > 0) expect(b.x).to.be.at.least((bars[i - 1]?.x ?? 0) + (bars[i - 1]?.width ?? 0));
    }
    expect(spreadBars([], 120, 50)).to.deep.equal([]);
  });

  it('wraps labels without losing the start of a word', () => {
    expect(wrap('Re-encode the heroes at drawn size', 12, 2)).to.deep.equal(['Re-encode', 'the heroes…']);
    expect(wrap('now', 10, 3)).to.deep.equal(['now']);
    for (const line of wrap('Re-encode the heroes at drawn size', 6, 3)) expect(line.length).to.be.at.most(6);
  });

  it('never lets a dot cover another, and never moves one to the left', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 60 }), { maxLength: 30 }), (values) => {
        const dots = placeDots(values, (v) => v, 4);
        expect(dots.map((d) => d.item).sort((a, b) => a - b)).to.deep.equal([...values].sort((a, b) => a - b));
        dots.forEach((d, i) => {
          expect(d.x).to.be.at.least(d.item);
          for (const e of dots.slice(i + 1)) expect(Math.hypot(d.x - e.x, d.y - e.y)).to.be.at.least(8);
        });
      }),
    );
  });

  it('puts every load of a story into exactly one lane', () => {
    const r = simulate(audit.graph, phone);
    const side = storySide(audit.graph, r, r.milestones.lcpMs);
    const happened = audit.graph.fetches.filter((f) => !f.refused && (r.fetches[f.id]?.foundMs ?? -1) >= 0).length;
    expect(side.rows.filter((x) => x.kind === 'fetch').length + side.others).to.equal(happened);
    expect(side.rows.some((x) => x.role === 'hero' && x.name === 'hero.jpg')).to.equal(true);
    expect(side.aheadOfHero).to.be.above(5);
    for (const x of side.rows) expect(x.endMs).to.be.at.least(x.foundMs);
  });
});

describe('islands/ui/format', () => {
  it('rounds to what is known', () => {
    expect([ms(0), ms(644), ms(949), ms(951), ms(6449)]).to.deep.equal(['0 ms', '640 ms', '950 ms', '1.0 s', '6.4 s']);
    expect([effectText(-1530), effectText(120), effectText(-12)]).to.deep.equal([
      'saves 1.5 s',
      'adds 120 ms',
      'no change',
    ]);
    expect([range([2600, 3100]), range([100, 400]), range([400, 1600])]).to.deep.equal([
      '2.6 to 3.1 s',
      '100 to 400 ms',
      '0.4 to 1.6 s',
    ]);
    expect([
      effectText(-1300, [-1600, -1200]),
      effectText(-100, [-220, 30]),
      effectText(70, [50, 90]),
      effectText(0, [-100, -50]),
    ]).to.deep.equal([
      'saves 1.3 s (1.2 to 1.6 s)',
      'saves 100 ms (saves 220 ms to adds 30 ms)',
      'adds 70 ms (50 to 90 ms)',
      'no change (saves 50 to 100 ms)',
    ]);
    expect([bytes(999), bytes(1500), bytes(2_340_000)]).to.deep.equal(['999 B', '2 kB', '2.3 MB']);
    expect([count(1, 'page'), count(1200, 'page')]).to.deep.equal(['1 page', '1,200 pages']);
  });

  it('leaves out what most titles end with', () => {
    expect(shortTitles(['Talks - Garden', 'Visit - Garden', 'Home'])).to.deep.equal(['Talks', 'Visit', 'Home']);
    expect(shortTitles(['Talks - Garden'])).to.deep.equal(['Talks - Garden']);
    expect(shortTitles([])).to.deep.equal([]);
  });
});
