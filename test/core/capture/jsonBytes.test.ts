import { expect } from 'chai';
import fc from 'fast-check';
import { JsonSyntaxError, parseJsonBytes } from '../../../src/core/capture/jsonBytes';

const bytes = (text: string) => new TextEncoder().encode(text);

describe('core/capture/jsonBytes', () => {
  it('gives what JSON.parse gives, for any document', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        const text = JSON.stringify(value);
        expect(parseJsonBytes(bytes(text)).value).to.deep.equal(JSON.parse(text));
      }),
    );
  });

  it('leaves long strings in place and reads them back, escapes and all', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: 'binary', minLength: 3, maxLength: 40 }),
        fc.integer({ min: 600, max: 2000 }),
        (piece, times) => {
          const long = (piece + '\\"\n/é').repeat(times * 4);
          const doc = parseJsonBytes(bytes(JSON.stringify({ a: [1, long], b: 'short' })));
          const value = doc.value as { a: [number, string]; b: string };
          expect(doc.text(value.a[1])).to.equal(JSON.parse(JSON.stringify(long)));
          expect(doc.text(value.b)).to.equal('short');
          expect(value.a[1].length).to.be.below(40);
        },
      ),
      { numRuns: 20 },
    );
  });

  it('takes a byte order mark', () => {
    expect(parseJsonBytes(bytes('\ufeff{"a":1}')).value).to.deep.equal({ a: 1 });
  });

  it('names the line and byte of a fault behind long strings', () => {
    const text = `{"a":"${'x'.repeat(50_000)}",\n"b": oops}`;
    try {
      parseJsonBytes(bytes(text));
      expect.fail('no error');
    } catch (error) {
      expect(error).to.be.instanceOf(JsonSyntaxError);
      expect((error as JsonSyntaxError).line).to.equal(2);
      expect((error as JsonSyntaxError).offset).to.be.within(50_000, text.length);
    }
  });
});
