import { expect } from 'chai';
import type { FieldRow } from '../../../src/core/field/fieldData';
import { fieldSentence, fieldSource } from '../../../src/core/field/words';

const row: FieldRow = {
  of: 'page',
  address: 'https://www.fernhollow.example/beds/',
  device: 'phone',
  month: '2026-10',
  p75: { lcpMs: 4100, cls: 0.04, fcpMs: 900 },
  shares: {},
  visits: 1240,
};

describe('core/field: what real visits came to, in words', () => {
  it('says of what, of when and of how many, as far as that is known', () => {
    expect(fieldSource(row)).to.equal('to this page, phone, October 2026, 1,240 visits');
    expect(fieldSource({ ...row, of: 'origin', device: 'all', month: '', visits: undefined })).to.equal(
      'to the whole origin, all devices',
    );
    expect(fieldSource({ ...row, visits: 1 })).to.contain('1 visit');
  });

  it('names the metrics that there are, each as good, needs work or poor', () => {
    expect(fieldSentence(row, ['lcpMs', 'cls', 'inpMs'])).to.equal(
      'Real visits to this page, phone, October 2026, 1,240 visits, p75: Hero paint (LCP) 4.1 s, poor; Layout shift (CLS) 0.04, good.',
    );
    expect(fieldSentence(row, ['inpMs'])).to.equal(undefined);
  });
});
