import { expect } from 'chai';
import fc from 'fast-check';
import { WarcRecords } from '../../../src/core/capture/archives/warcRecords';
import { faultOf } from '../../fixtures/fault';

const bytes = (text: string) => new Uint8Array(Buffer.from(text, 'latin1'));

function record(type: string, block: string): string {
  return `WARC/1.1\r\nWARC-Type: ${type}\r\nContent-Length: ${block.length}\r\n\r\n${block}\r\n\r\n`;
}

/** The blocks of an archive that arrives in parts cut at these places. */
function blocks(archive: Uint8Array, cuts: readonly number[], largest?: number): (string | undefined)[] {
  const records = new WarcRecords('a.warc', largest);
  const out: (string | undefined)[] = [];
  const places = [...cuts.map((c) => c % (archive.length + 1)), archive.length].sort((a, b) => a - b);
  let from = 0;
  for (const to of places) {
    for (const { block } of records.push(archive.subarray(from, to)))
      out.push(block && Buffer.from(block).toString('latin1'));
    from = to;
  }
  records.end();
  return out;
}

describe('core/capture/archives: records of a WARC as they arrive', () => {
  it('are the same however the archive is cut into parts', () => {
    fc.assert(
      fc.property(
        fc.array(fc.string({ unit: fc.constantFrom('a', '\r', '\n', ':', 'WARC/1.1\r\n'), maxLength: 40 }), {
          minLength: 1,
          maxLength: 6,
        }),
        fc.array(fc.nat(), { maxLength: 30 }),
        (contents, cuts) => {
          const archive = bytes(contents.map((c) => record('response', c)).join(''));
          expect(blocks(archive, cuts)).to.deep.equal(contents);
        },
      ),
    );
  });

  it('have no contents where they are larger than is read, and the next record is read', () => {
    const archive = bytes(record('response', 'x'.repeat(5000)) + record('response', 'small'));
    expect(blocks(archive, [100, 3000], 1000)).to.deep.equal([undefined, 'small']);
  });

  it('end with a reason: cut within a block, within a head, no record, a head without end, no length', () => {
    const whole = record('response', 'block');
    const at = (text: string) => faultOf(() => blocks(bytes(text), [40]));
    expect(at(whole.slice(0, -6)).what).to.contain('within a record');
    expect(at(whole + whole.slice(0, 30)).what).to.contain('within the head');
    expect(at(`${whole}RUBBISH`)).to.include({ where: `a.warc, record 2, byte ${whole.length}` });
    expect(at(`WARC/1.1\r\nA: ${'x'.repeat(1_100_000)}`).what).to.contain('longer than 1 MB');
    expect(at('WARC/1.1\r\nWARC-Type: response\r\n\r\n').what).to.contain('no length');
  });
});
