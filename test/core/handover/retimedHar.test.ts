import { expect } from 'chai';
import { bodiesInMemory } from '../../../src/core/capture/capture';
import { readHar } from '../../../src/core/capture/har';
import { applyFixes } from '../../../src/core/fixes/applyFixes';
import { retimedHar } from '../../../src/core/handover/retimedHar';
import { simulate } from '../../../src/core/load/simulate';
import { VISITORS } from '../../../src/core/load/visitors';
import { readPage } from '../../../src/core/source/page';
import { faultySite } from '../../fixtures/faultySite';
import { bytesOf } from '../../fixtures/har';

const phone = VISITORS[0] as (typeof VISITORS)[number];
const audit = faultySite();
const { capture } = audit.page;

function retimed(kinds: readonly string[] = []) {
  const graph = applyFixes(
    audit.graph,
    audit.fixes.filter((f) => kinds.includes(f.kind)),
  );
  const replay = simulate(graph, phone);
  const [read] = readHar(bytesOf(retimedHar(capture, graph, replay, '9.9.9')), 'retimed.har');
  if (!read) throw new Error('no capture');
  return { graph, replay, read: read.capture };
}

describe('core/handover/retimedHar (HAR 1.2)', () => {
  it('is a HAR that we read ourselves, with the milestones of the forecast', () => {
    const { read, replay } = retimed();
    expect(read.page).to.equal(capture.page);
    expect(read.measured.lcpMs).to.be.closeTo(replay.milestones.lcpMs, 0.01);
    expect(read.measured.loadMs).to.be.closeTo(replay.milestones.loadMs, 0.01);
    expect(read.measured.dclMs).to.be.closeTo(replay.milestones.dclMs, 0.01);
  });

  it('says in itself that it is a forecast', () => {
    const text = JSON.stringify(retimedHar(capture, audit.graph, simulate(audit.graph, phone), '9.9.9'));
    expect(text).to.contain('Times are a forecast, not a recording.');
    expect(JSON.parse(text)).to.have.nested.property('log.creator.version', '9.9.9');
  });

  it('gives every load its time, to the ms, in the order in which they begin', () => {
    const { graph, read, replay } = retimed();
    const starts = read.loads.map((l) => l.startMs);
    expect(starts).to.deep.equal([...starts].sort((a, b) => a - b));
    for (const load of read.loads) {
      const fetch = graph.fetches.find(
        (f) => f.url === load.url && Math.abs((replay.fetches[f.id]?.foundMs ?? 0) - load.startMs) < 1.01,
      );
      expect(fetch, load.url).not.to.equal(undefined);
      const times = replay.fetches[fetch?.id ?? 0];
      expect(load.endMs, load.url).to.be.closeTo(times?.endMs ?? -1, 1.01);
    }
  });

  it('leaves out bodies, and what a browser refuses or no longer asks for', () => {
    const { read, graph } = retimed();
    const page = readPage(read, bodiesInMemory(new Map()));
    expect(read.loads.length).to.equal(
      graph.fetches.filter((f) => f.load >= 0 && !f.refused && f.discovery.by !== 'never').length,
    );
    for (const load of read.loads) expect(page.bodies.bytes(load)).to.equal(undefined);
  });

  it('has the sizes and addresses that fixes lead to', () => {
    const plain = retimed();
    const moved = retimed(['self-host', 'font-convert']);
    const own = (list: typeof plain) =>
      list.read.loads.map((l) => l.url).filter((u) => u.startsWith(`${new URL(capture.page).origin}/own/`));
    expect(own(plain)).to.deep.equal([]);
    expect(own(moved).join()).to.match(/\/own\/\w+\/count\.js/);
    const bytes = (list: typeof plain) => list.read.loads.reduce((sum, l) => sum + l.bodyBytes, 0);
    expect(bytes(moved)).to.be.below(bytes(plain));
  });
});
