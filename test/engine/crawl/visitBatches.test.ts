import { expect } from 'chai';
import { VisitBatches, type VisitBatch } from '../../../src/engine/crawl/visitBatches';
import type { Visit } from '../../../src/engine/store/crawlPages';

const visit = (id: number) => ({ id }) as unknown as Visit;

describe('engine/crawl/visitBatches', () => {
  it('stores each visit once, in order, and no two batches at a time', async () => {
    const stored: number[] = [];
    let atOnce = 0;
    const batches = new VisitBatches(
      async ({ visits }: VisitBatch) => {
        expect(++atOnce).to.equal(1);
        await new Promise((done) => setImmediate(done));
        stored.push(...visits.map((v) => v.id));
        atOnce--;
      },
      () => false,
    );
    for (let i = 0; i < 250; i++) batches.add(visit(i));
    await batches.flush();
    expect(stored).to.deep.equal(Array.from({ length: 250 }, (_, i) => i));
    expect(batches.waiting).to.equal(0);
  });

  it('stores notes without visits, nothing without either, and nothing more once a batch has failed', async () => {
    let notes = false;
    let calls = 0;
    const batches = new VisitBatches(
      () => (calls++, calls > 1 ? Promise.reject(new Error('full')) : Promise.resolve()),
      () => notes,
    );
    await batches.flush();
    expect(calls).to.equal(0);
    notes = true;
    await batches.flush();
    expect(calls).to.equal(1);
    batches.add(visit(1));
    await batches.flush();
    expect(batches.fault).to.be.instanceOf(Error);
    batches.add(visit(2));
    await batches.flush();
    expect(calls).to.equal(2);
  });
});
