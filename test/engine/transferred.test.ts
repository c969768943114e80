import { expect } from 'chai';
import fc from 'fast-check';
import { splitTransfer } from '../../src/engine/record/transferred';

describe('engine/record/transferred', () => {
  it('counts a body that arrived together with its headers', () => {
    const told = { total: 12_300, atHeaders: 12_300, parts: 12_000, contentLength: 12_000, decoded: 40_000 };
    expect(splitTransfer(told)).to.deep.equal({ headerBytes: 300, bodyBytes: 12_000 });
    expect(splitTransfer({ ...told, contentLength: undefined })).to.deep.equal({ headerBytes: 300, bodyBytes: 12_000 });
    expect(splitTransfer({ ...told, contentLength: undefined, parts: 0 }).bodyBytes).to.equal(11_800);
  });

  it('leaves what has no body without one', () => {
    const none = { total: 250, atHeaders: 250, parts: 0, decoded: 0 };
    expect(splitTransfer(none)).to.deep.equal({ headerBytes: 250, bodyBytes: 0 });
    expect(splitTransfer({ ...none, total: 0 })).to.deep.equal({ headerBytes: 0, bodyBytes: 0 });
  });

  it('does not believe a length that is more than what arrived', () => {
    const told = { total: 5000, atHeaders: 200, parts: 4800, contentLength: 90_000, decoded: 4800 };
    expect(splitTransfer(told)).to.deep.equal({ headerBytes: 200, bodyBytes: 4800 });
  });

  it('loses no body, however its bytes are told', () => {
    const load = fc.record({
      head: fc.integer({ min: 40, max: 4000 }),
      body: fc.integer({ min: 1, max: 3_000_000 }),
      /** How much of the body had arrived when the headers were read. */
      early: fc.double({ min: 0, max: 1, noNaN: true }),
      statesLength: fc.boolean(),
      tellsParts: fc.boolean(),
      factor: fc.double({ min: 1, max: 8, noNaN: true }),
    });
    fc.assert(
      fc.property(load, ({ head, body, early, statesLength, tellsParts, factor }) => {
        const split = splitTransfer({
          total: head + body,
          atHeaders: head + Math.round(body * early),
          parts: tellsParts ? body : 0,
          contentLength: statesLength ? body : undefined,
          decoded: Math.round(body * factor),
        });
        expect(split.headerBytes + split.bodyBytes).to.equal(head + body);
        expect(split.bodyBytes).to.be.above(0);
        if (statesLength || tellsParts) expect(split).to.deep.equal({ headerBytes: head, bodyBytes: body });
      }),
    );
  });
});
